import type { FileInfo } from "../../../shared/fields/files";
import { type Value, valueText } from "../../../shared/fields/values";
import type { FormState } from "../../place";
import type { Question, Values } from "./state";
import { idsAt, review, type Step } from "./steps";

interface ReviewProps {
	steps: Step[];
	state: FormState;
	questions: Question[];
	values: Values;
	/** What is known of the files that were sent, by their ids. */
	files: Map<string, FileInfo>;
	onBack: (to: number) => void;
}

/** All answers, to look them over before they are sent. */
export function Review({ steps, state, questions, values, files, onBack }: ReviewProps) {
	const asked = (s: Step) =>
		idsAt(s.places)
			.filter((id) => state.parts[id])
			.flatMap((id) => questions.find((q) => q.id === id) ?? []);
	return steps.map((s, i) =>
		s.id === review || asked(s).length === 0 ? null : (
			<section key={s.id} className="form-section">
				<div className="answers-head">
					<h3>{s.title}</h3>
					<button type="button" className="text-link" onClick={() => onBack(i)} aria-label={`Change ${s.title}`}>
						Change
					</button>
				</div>
				<dl className="answers-list">
					{asked(s).map((q) => (
						<div key={q.id} className="contents">
							<dt>{q.words || q.column.name}</dt>
							<dd>
								{answerText(q, values[q.column.id] ?? null, state.parts[q.id]?.labels, files) || (
									<span className="text-soft">Nothing</span>
								)}
							</dd>
						</div>
					))}
				</dl>
			</section>
		),
	);
}

/** An answer as it is read. */
function answerText(q: Question, value: Value, labels: string[] | undefined, files: Map<string, FileInfo>): string {
	const id = q.column.id;
	if (labels) return labels.map((l) => l || "(no name)").join(", ");
	const known = [value].flat().flatMap((v) => files.get(String(v)) ?? q.files?.find((f) => f.id === v) ?? []);
	return valueText({ [id]: value, [`${id}~`]: q.column.kind === "file" ? known : undefined }, q.column);
}
