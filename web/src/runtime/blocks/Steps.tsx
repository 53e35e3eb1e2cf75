import type { BlockProps } from ".";
import "./media.css";

/** The choices of a field in a line. Those before the present one are done. */
export default function Steps({ block }: BlockProps<"steps">) {
	const at = block.steps.findIndex((s) => s.present);
	return (
		<ol className="steps" aria-label={block.name}>
			{block.steps.map((s, i) => (
				<li key={s.label} className={i < at ? "steps-done" : ""} aria-current={i === at ? "step" : undefined}>
					{s.label}
				</li>
			))}
		</ol>
	);
}
