import type { FileInfo } from "../../../shared/fields/files";
import { ValueInput } from "../../../shared/fields/input";
import { Picks } from "../../../shared/fields/picks";
import { linkedRecords, type RecordOption, type Value } from "../../../shared/fields/values";
import { type FormState, onStage } from "../../place";
import { type Question, rowOf } from "./state";

interface QuestionProps {
	id: string;
	question: Question;
	part: FormState["parts"][string];
	value: Value;
	wrong?: string;
	/** What happened to its answer. */
	note?: string;
	onChange: (v: Value) => void;
	onLeave: () => void;
	send: (file: File, progress: (part: number) => void) => Promise<FileInfo>;
	search?: (words: string) => Promise<RecordOption[]>;
}

/** A question with its answer, and what is said of that. */
export function QuestionView({
	id,
	question,
	part,
	value,
	wrong,
	note,
	onChange,
	onLeave,
	send,
	search,
}: QuestionProps) {
	const { column } = question;
	const Input = question.ask ? Picks : ValueInput;
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: it only hears that one goes on from what is in it
		<div className="question" onBlur={onLeave} data-block={onStage ? question.id : undefined}>
			<label htmlFor={id} id={`${id}-label`}>
				{question.words || column.name}
				{!part.required && <span className="text-soft font-normal"> (optional)</span>}
			</label>
			<Input
				id={id}
				labelledBy={`${id}-label`}
				as={question.ask ?? "radio"}
				column={column}
				value={value}
				required={part.required}
				invalid={Boolean(wrong)}
				describedBy={`${id}-note`}
				placeholder={question.example}
				options={part.options ?? question.options}
				linked={column.type === "links" ? linkedRecords(rowOf(question), column) : undefined}
				label={question.label}
				files={question.files}
				send={send}
				onChange={onChange}
				search={search}
			/>
			<p id={`${id}-note`} aria-live="polite" className={wrong || note ? "text-berry text-sm" : "text-soft text-sm"}>
				{wrong || note || question.help || column.help}
			</p>
		</div>
	);
}
