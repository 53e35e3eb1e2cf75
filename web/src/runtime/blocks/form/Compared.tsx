import { X } from "lucide-react";
import type { Scenario } from "./Calculated";
import { slotsAt, valueAt } from "./filled";
import { answerText } from "./Review";
import { resultText } from "./resultText";
import type { Filling } from "./use";

interface ComparedProps {
	filling: Filling;
	kept: Scenario[];
	setKept: (to: Scenario[]) => void;
}

/** What was kept aside beside what is answered now: the answers that differ, and all results. */
export default function Compared({ filling, kept, setKept }: ComparedProps) {
	const { form, questions, blocks, filled, state, answerAll } = filling;
	const all = [{ name: "Now", filled, state }, ...kept];
	const slots = slotsAt(form.order, state, questions, filled).filter((s) => {
		const now = JSON.stringify(valueAt(filled, s.path));
		return kept.some((k) => JSON.stringify(valueAt(k.filled, s.path)) !== now);
	});
	const results = [...blocks.values()].filter((b) => b.kind === "result").filter((b) => state.parts[b.id]);
	return (
		<section className="compared" aria-label="Scenarios">
			<div className="compared-scroll">
				<table>
					<thead>
						<tr>
							<td />
							{all.map((s, i) => (
								<th key={s.name} scope="col">
									{s.name}
									{i > 0 && (
										<span className="compared-acts">
											<button
												type="button"
												className="text-link"
												aria-label={`Use the answers of ${s.name}`}
												onClick={() => answerAll(s.filled)}
											>
												Use
											</button>
											<button
												type="button"
												className="compared-gone"
												aria-label={`Remove ${s.name}`}
												onClick={() => setKept(kept.filter((k) => k !== s))}
											>
												<X size={14} aria-hidden />
											</button>
										</span>
									)}
								</th>
							))}
						</tr>
					</thead>
					<tbody>
						{slots.map((slot) => (
							<tr key={slot.path} className="text-soft">
								<th scope="row">{slot.q.words || slot.q.column.name}</th>
								{all.map((s) => (
									<td key={s.name}>{answerText(filling, slot, valueAt(s.filled, slot.path) ?? null) || "–"}</td>
								))}
							</tr>
						))}
						{results.map((b) => (
							<tr key={b.id}>
								<th scope="row">{b.column.name}</th>
								{all.map((s) => (
									<td key={s.name}>{resultText(b, s.state.parts[b.id]) || "–"}</td>
								))}
							</tr>
						))}
					</tbody>
				</table>
			</div>
		</section>
	);
}
