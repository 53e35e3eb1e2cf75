import { Trash2, Undo2 } from "lucide-react";
import { useContext } from "react";
import { onStage } from "../../place";
import { BlockView } from "..";
import { Arranging } from "./after";
import { type Line, lineSlots, questionsAt } from "./filled";
import { QuestionView } from "./QuestionView";
import type { Place } from "./steps";
import type { Filling } from "./use";
import "./lines.css";

/** What goes with a form: a record, or several. */
export default function With(props: { filling: Filling; place: Place }) {
	const { filling, place } = props;
	if (place.with === "lines") return <Lines {...props} />;
	const part = filling.state.parts[place.id];
	return (
		<section className="form-section" data-block={onStage ? place.id : undefined}>
			{part?.title && <h3>{part.title}</h3>}
			{place.of?.map((p) => (
				<WithView key={p.id} filling={filling} place={place} of={p} />
			))}
		</section>
	);
}

/** Records that go with the form, each a line of a small table; on a phone, one beneath the other. */
function Lines({ filling, place }: { filling: Filling; place: Place }) {
	const { form, state, questions, filled } = filling;
	const part = state.parts[place.id];
	const lines = filled.lines[place.id] ?? [];
	const there = lines.filter((l) => !l.removed).length;
	const asked = questionsAt(place.of, questions);
	const wrong = filling.wrong[place.id] || part?.wrong;
	const add = `${form.id}-${place.id}-add`;
	return (
		<section className="form-section" data-block={onStage ? place.id : undefined}>
			{part?.title && <h3>{part.title}</h3>}
			{lines.length > 0 && (
				<div className="lines">
					<table aria-label={part?.title || "Lines"}>
						<thead>
							<tr>
								{asked.map((q) => (
									<th key={q.id} scope="col" data-number={q.column.kind === "number" || undefined}>
										{q.words || q.column.name}
									</th>
								))}
								<th>
									<span className="sr-only">Remove</span>
								</th>
							</tr>
						</thead>
						<tbody>
							{lines.map((l, i) => (
								<LineView key={l.key} filling={filling} place={place} line={l} n={i + 1} />
							))}
						</tbody>
					</table>
				</div>
			)}
			{wrong && (
				<p role="alert" className="text-berry text-sm">
					{wrong}
				</p>
			)}
			<p hidden={!part?.adds}>
				<button
					type="button"
					id={add}
					className="button"
					disabled={there >= (place.most ?? 100)}
					onClick={() => filling.addLine(place.id)}
				>
					Add a line
				</button>
			</p>
		</section>
	);
}

function LineView({ filling, place, line, n }: { filling: Filling; place: Place; line: Line; n: number }) {
	const { state, questions } = filling;
	const asked = questionsAt(place.of, questions);
	if (line.removed)
		return (
			<tr className="line-gone">
				<td colSpan={asked.length}>Line {n} is removed when you send this.</td>
				<td>
					<button
						type="button"
						className="line-act"
						aria-label={`Keep line ${n}`}
						onClick={() => filling.keepLine(place.id, line.key)}
					>
						<Undo2 size={17} aria-hidden="true" />
					</button>
				</td>
			</tr>
		);
	const slots = lineSlots(place, line, state, questions);
	return (
		<tr>
			{asked.map((q) => {
				const slot = slots.find((s) => s.q.id === q.id);
				return (
					<td key={q.id} data-name={q.words || q.column.name} data-number={q.column.kind === "number" || undefined}>
						{slot && <QuestionView filling={filling} slot={slot} line={line} n={n} />}
					</td>
				);
			})}
			<td>
				{(!line.record || state.parts[place.id]?.removes) && (
					<button
						type="button"
						className="line-act"
						aria-label={`Remove line ${n}`}
						onClick={() => filling.removeLine(place.id, line.key)}
					>
						<Trash2 size={17} aria-hidden="true" />
					</button>
				)}
			</td>
		</tr>
	);
}

/** What stands among the questions about a record that goes with the form. */
function WithView({ filling, place, of }: { filling: Filling; place: Place; of: Place }) {
	const line = filling.filled.lines[place.id]?.[0];
	const between = filling.blocks.get(of.id);
	const Arranged = useContext(Arranging);
	if (between) return <BlockView block={between} where={filling.where} />;
	const slot = line && lineSlots(place, line, filling.state, filling.questions).find((s) => s.q.id === of.id);
	if (!slot) return null;
	const shown = <QuestionView filling={filling} slot={slot} line={line} />;
	return Arranged ? (
		<Arranged form={filling.form} place={of}>
			{shown}
		</Arranged>
	) : (
		shown
	);
}
