import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Problem, wordsOf } from "../../shared/api/client";
import type { FileInfo } from "../../shared/fields/files";
import { ValueInput } from "../../shared/fields/input";
import {
	fieldValue,
	linkedRecords,
	type RecordOption,
	type Row,
	sentValue,
	type Value,
} from "../../shared/fields/values";
import { given } from "../asks";
import { addressOf, getOptions, newKey, type Form as Shown, sendForm, sendFormFile } from "../place";
import type { BlockProps } from ".";

type Question = Shown["questions"][number];
type Values = { [field: string]: Value };

const rowOf = (q: Question): Row => ({ [q.column.id]: q.value, [`${q.column.id}~`]: q.count });

function start(form: Shown, given: { [field: string]: string } = {}): Values {
	const before = (q: Question) => (form.revision ? undefined : prefilled(q.column, given[q.column.id]));
	return Object.fromEntries(form.questions.map((q) => [q.column.id, before(q) ?? fieldValue(rowOf(q), q.column)]));
}

/** What an address fills in: a day. All else could be a link that has somebody send what they did not mean. */
function prefilled(column: Question["column"], day: string | undefined): string | undefined {
	if (!day || !/^\d{4}-\d\d-\d\d$/.test(day) || Number.isNaN(Date.parse(day))) return undefined;
	if (column.type === "date") return day;
	return column.type === "time stamp" ? new Date(`${day}T09:00`).toISOString().replace(".000", "") : undefined;
}

/**
 * The answers of a form. One that changes a record sends only what was changed: what stands in it may be more than is
 * shown here, such as a link to a record that others see.
 */
function sent(form: Shown, values: Values) {
	const before = start(form);
	const same = (id: string) => JSON.stringify(values[id] ?? null) === JSON.stringify(before[id] ?? null);
	return Object.fromEntries(
		form.questions
			.filter((q) => !form.revision || !same(q.column.id))
			.map((q) => [q.column.id, sentValue(rowOf(q), q.column, values[q.column.id] ?? null)]),
	);
}

/** A form. The server decides what is right; what it finds wrong is shown at the question. */
export default function Form(props: BlockProps<"form">) {
	return <Questions key={props.block.revision} {...props} />;
}

function Questions({ block: form, where }: BlockProps<"form">) {
	const block = form.id;
	const [search] = useSearchParams();
	const [values, setValues] = useState(() => start(form, given(search)));
	const [wrong, setWrong] = useState<Record<string, string>>({});
	const key = useRef("");
	const element = useRef<HTMLFormElement>(null);
	const navigate = useNavigate();
	const client = useQueryClient();
	const send = useMutation({
		mutationFn: () => {
			key.current ||= newKey();
			return sendForm(key.current, block, where, form.revision, sent(form, values));
		},
		onSuccess: async (got) => {
			key.current = "";
			setWrong({});
			await client.invalidateQueries();
			navigate(got.go ? addressOf(got.go) : `/${where.path}${where.record ? `/${where.record}` : ""}`, {
				state: { thanks: got.thanks },
				replace: !got.go,
			});
			if (!form.revision) setValues(start(form));
			window.scrollTo(0, 0);
		},
		onError: (e) => {
			const found = Object.fromEntries(
				(e instanceof Problem ? e.mistakes : []).map((m) => [m.location ?? "", m.message ?? ""]),
			);
			setWrong(found);
			const first = form.questions.find((q) => found[q.column.id]);
			if (first) element.current?.querySelector<HTMLElement>(`#${CSS.escape(`${block}-${first.column.id}`)}`)?.focus();
		},
	});
	const submit = (e: FormEvent) => {
		e.preventDefault();
		send.mutate();
	};
	if (form.questions.length === 0) return <p className="empty">There is nothing for you to fill in here.</p>;
	return (
		<form ref={element} className="card form-card" onSubmit={submit} noValidate>
			{send.isError && (
				<p role="alert" className="note note-bad">
					{wordsOf(send.error)}
				</p>
			)}
			{form.questions.map((q) => (
				<QuestionView
					key={q.column.id}
					id={`${block}-${q.column.id}`}
					question={q}
					value={values[q.column.id] ?? null}
					wrong={wrong[q.column.id]}
					onChange={(v) => setValues({ ...values, [q.column.id]: v })}
					send={sendFormFile(block, q.column.id, where)}
					search={q.more ? async (words) => (await getOptions(block, q.column.id, where, words)).options : undefined}
				/>
			))}
			<p>
				<button type="submit" className="button button-main" disabled={send.isPending}>
					{send.isPending ? "Sending …" : form.submit || "Send"}
				</button>
			</p>
		</form>
	);
}

interface QuestionProps {
	id: string;
	question: Question;
	value: Value;
	wrong?: string;
	onChange: (v: Value) => void;
	send: (file: File, progress: (part: number) => void) => Promise<FileInfo>;
	search?: (words: string) => Promise<RecordOption[]>;
}

function QuestionView({ id, question, value, wrong, onChange, send, search }: QuestionProps) {
	const { column } = question;
	return (
		<div className="question">
			<label htmlFor={id}>
				{column.name}
				{!question.required && <span className="text-soft font-normal"> (optional)</span>}
			</label>
			<ValueInput
				id={id}
				column={column}
				value={value}
				required={question.required}
				invalid={Boolean(wrong)}
				describedBy={`${id}-note`}
				options={question.options}
				linked={column.type === "links" ? linkedRecords(rowOf(question), column) : undefined}
				label={question.label}
				files={question.files}
				send={send}
				onChange={onChange}
				search={search}
			/>
			<p id={`${id}-note`} className={wrong ? "text-berry text-sm" : "text-soft text-sm"}>
				{wrong || column.help}
			</p>
		</div>
	);
}
