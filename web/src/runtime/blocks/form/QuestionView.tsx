import { lazy, type ReactNode, Suspense } from "react";
import { ValueInput } from "../../../shared/fields/input";
import { Picks } from "../../../shared/fields/picks";
import { type Column, fieldValue, linkedRecords, type Value, valueText } from "../../../shared/fields/values";
import { onStage, pictureHref, sendFormFile } from "../../place";
import { type Line, type Slot, valueAt } from "./filled";
import { searchOf } from "./search";
import { type Filling, idOf } from "./use";

interface QuestionProps {
	filling: Filling;
	slot: Slot;
	/** The line in whose small table it stands, and the how manieth that is. */
	line?: Line;
	n?: number;
}

/** A question with its answer, and what is said of that. */
export function QuestionView({ filling, slot, line, n }: QuestionProps) {
	const { form, where, current, files } = filling;
	const { path, q, part, row } = slot;
	const column = narrowed(q.column, part);
	const id = idOf(form.id, path);
	const wrong = filling.wrong[path] || (current && filling.left[path] ? part.wrong : undefined);
	const note = filling.notes[path];
	const said = wrong || note || (n ? undefined : q.help || column.help);
	const label = q.words || column.name;
	if (q.shown)
		return (
			<div className={n ? "question" : "question-fixed"} data-block={onStage ? q.id : undefined}>
				<p className={n ? "sr-only" : "question-name"}>{label}</p>
				<output id={id} aria-label={n ? `${label}, line ${n}` : label} className="question-shown">
					{shownText(slot) || <span className="text-soft">–</span>}
				</output>
			</div>
		);
	const Input = inputs[q.ask ?? "search"];
	const held = valueAt(filling.filled, path); // null for nothing, also where there was something before
	const upload = sendFormFile(form.id, column.id, where);
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: it only hears that one goes on from what is in it
		<div className="question" onBlur={() => filling.leave(path)} data-block={onStage ? q.id : undefined}>
			<label htmlFor={id} id={`${id}-label`} className={n ? "sr-only" : undefined}>
				{label}
				{n ? `, line ${n}` : ""}
				{!part.required && <span className="text-soft font-normal"> (optional)</span>}
			</label>
			<Suspense fallback={null}>
				<WithUnit unit={q.ask || n ? "" : column.unit || column.currency}>
					<Input
						id={id}
						labelledBy={`${id}-label`}
						as={q.ask === "buttons" || q.ask === "cards" ? q.ask : "radio"}
						picture={pictureHref}
						column={column}
						value={held === undefined ? fieldValue(row, column) : held}
						required={part.required}
						invalid={Boolean(wrong)}
						describedBy={`${id}-note`}
						placeholder={q.example}
						options={part.options ?? q.options}
						linked={column.type === "links" ? linkedRecords(row, column) : undefined}
						label={labelOf(slot, line)}
						files={line ? filesIn(line, column.id) : q.files}
						send={async (file, progress) => {
							const info = await upload(file, progress);
							files.set(info.id, info);
							return info;
						}}
						onChange={(v: Value) => filling.answer(path, v)}
						search={searchOf(filling, slot, line)}
					/>
				</WithUnit>
			</Suspense>
			{(!n || said) && (
				<p id={`${id}-note`} aria-live="polite" className={wrong || note ? "text-berry text-sm" : "text-soft text-sm"}>
					{said}
				</p>
			)}
		</div>
	);
}

/** What an answer is measured in, behind where it is typed. */
function WithUnit({ unit, children }: { unit?: string; children: ReactNode }) {
	if (!unit) return children;
	return (
		<div className="with-unit">
			{children}
			<span className="text-soft">{unit}</span>
		</div>
	);
}

const Stars = lazy(() => import("../../../shared/fields/scales").then((m) => ({ default: m.Stars })));
const Slider = lazy(() => import("../../../shared/fields/scales").then((m) => ({ default: m.Slider })));

/** What takes an answer that is asked for in a way; a search is a way of what is usual. */
const inputs = {
	radio: Picks,
	buttons: Picks,
	cards: Picks,
	stars: Stars,
	slider: Slider,
	search: ValueInput,
};

/** What is asked for, with those choices alone that fit other answers. */
const narrowed = (column: Column, { choices }: Slot["part"]): Column =>
	choices ? { ...column, choices: column.choices?.filter((c) => choices.includes(c.id)) } : column;

/** The label of the record to which the value led at first. */
function labelOf({ q, row }: Slot, line: Line | undefined): string | undefined {
	if (!line?.record) return q.label;
	const label = row[`${q.column.id}~`];
	return typeof label === "string" ? label : undefined;
}

function filesIn(line: Line, field: string) {
	const list = line.row[`${field}~`];
	return Array.isArray(list) ? list : [];
}

/** A value that is only shown. */
export function shownText({ q, part }: Slot): string {
	return valueText({ [q.column.id]: part.value, [`${q.column.id}~`]: part.label }, q.column);
}
