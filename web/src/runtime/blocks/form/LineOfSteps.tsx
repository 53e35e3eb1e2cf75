import { Check } from "lucide-react";
import { onStage } from "../../place";
import type { Step } from "./steps";

/** Where somebody is among the steps of a form. They can go back to those that they have been at; whoever arranges the form, to each. */
export function LineOfSteps({ steps, at, onGo }: { steps: Step[]; at: number; onGo: (to: number) => void }) {
	return (
		<nav aria-label="Steps">
			<p className="steps-short">
				Step {at + 1} of {steps.length}
			</p>
			<ol className="steps-line">
				{steps.map((s, i) => (
					<li key={s.id} aria-current={i === at ? "step" : undefined} data-done={i < at || undefined}>
						<span className="steps-mark" aria-hidden="true">
							{i < at ? <Check size={13} strokeWidth={3} /> : i + 1}
						</span>
						{i < at || (onStage && i !== at) ? (
							<button type="button" className="steps-name" onClick={() => onGo(i)}>
								{s.title}
							</button>
						) : (
							<span className="steps-name">{s.title}</span>
						)}
					</li>
				))}
			</ol>
		</nav>
	);
}
