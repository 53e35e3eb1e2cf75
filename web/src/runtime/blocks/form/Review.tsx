import { type Value, valueText } from "../../../shared/fields/values";
import { type Slot, slotsAt, valueAt } from "./filled";
import { shownText } from "./QuestionView";
import { resultText } from "./resultText";
import { idsAt, type Place, review } from "./steps";
import type { Filling } from "./use";

/** All answers, to look them over before they are sent. */
export function Review({ filling }: { filling: Filling }) {
	const { steps, state, questions, filled, goTo, blocks } = filling;
	const resultsAt = (places: Place[]) =>
		idsAt(places).flatMap((id) => {
			const b = blocks.get(id);
			return b?.kind === "result" && state.parts[id] ? [b] : [];
		});
	return steps.map((s) => {
		const slots = slotsAt(s.places, state, questions, filled);
		return s.id === review || slots.length === 0 ? null : (
			<section key={s.id} className="form-section">
				<div className="answers-head">
					<h3>{s.title}</h3>
					<button type="button" className="text-link" onClick={() => goTo(s)} aria-label={`Change ${s.title}`}>
						Change
					</button>
				</div>
				<dl className="answers-list">
					{slots.map((slot) => (
						<div key={slot.path} className="contents">
							<dt>{slot.q.words || slot.q.column.name}</dt>
							<dd>
								{(slot.q.shown ? shownText(slot) : answerText(filling, slot, valueAt(filled, slot.path) ?? null)) || (
									<span className="text-soft">Nothing</span>
								)}
							</dd>
						</div>
					))}
					{resultsAt(s.places).map((b) => (
						<div key={b.id} className="contents">
							<dt>{b.column.name}</dt>
							<dd>{resultText(b, state.parts[b.id]) || <span className="text-soft">Nothing</span>}</dd>
						</div>
					))}
				</dl>
			</section>
		);
	});
}

/** An answer as it is read. */
export function answerText({ files }: Filling, { q, part, row }: Slot, value: Value): string {
	const id = q.column.id;
	if (part.labels) return part.labels.map((l) => l || "(no name)").join(", ");
	const before = [q.files ?? [], row[`${id}~`] ?? []].flat() as { id: string }[];
	const known = [value].flat().flatMap((v) => files.get(String(v)) ?? before.find((f) => f.id === v) ?? []);
	return valueText({ [id]: value, [`${id}~`]: q.column.kind === "file" ? known : undefined }, q.column);
}
