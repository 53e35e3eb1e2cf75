import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Problem, wordsOf } from "../../shared/api/client";
import type { FileInfo } from "../../shared/fields/files";
import { ValueInput } from "../../shared/fields/input";
import { Picks } from "../../shared/fields/picks";
import { linkedRecords, type RecordOption, type Value } from "../../shared/fields/values";
import { given } from "../asks";
import {
	addressOf,
	askForm,
	type FormState,
	getOptions,
	newKey,
	onStage,
	type Form as Shown,
	sendForm,
	sendFormFile,
	type Where,
} from "../place";
import { forgetUnsent, keepUnsent, unsent } from "../unsent";
import { type BlockProps, BlockView } from ".";
import { answers, type Question, rowOf, start, useFormState, type Values } from "./form";

/** A form. The server decides what is asked, and what is right; what it finds wrong is shown at the question. */
export default function Form(props: BlockProps<"form">) {
	return <Questions key={props.block.revision} {...props} />;
}

function Questions({ block: form, where }: BlockProps<"form">) {
	const block = form.id;
	const [search] = useSearchParams();
	const at = () => start(form, form.state.questions, given(search));
	const kept = `${block} ${where.path} ${where.record} ${form.revision}`;
	const [before, setBefore] = useState(() => (onStage ? null : unsent<Values>(kept)));
	const [values, setValues] = useState<Values>(() => ({ ...at(), ...before }));
	const { state, current, questions, blocks } = useFormState(form, where, values);
	const [wrong, setWrong] = useState<Record<string, string>>({}); // of what was sent
	const [left, setLeft] = useState<Record<string, boolean>>({}); // questions that somebody was at
	const touched = useRef(false);
	useEffect(() => {
		if (touched.current) keepUnsent(kept, values);
	}, [kept, values]);
	const cleared = useCleared(state, current, questions, values, setValues);
	const key = useRef("");
	const element = useRef<HTMLFormElement>(null);
	const navigate = useNavigate();
	const client = useQueryClient();
	const send = useMutation({
		mutationFn: () => {
			key.current ||= newKey();
			return sendForm(key.current, block, where, form.revision, answers(form, questions, values));
		},
		onSuccess: async (got) => {
			key.current = "";
			touched.current = false;
			forgetUnsent(kept);
			setBefore(null);
			setWrong({});
			setLeft({});
			// how the form was with what is sent by now is not asked again
			await client.invalidateQueries({ queryKey: ["form"], refetchType: "none" });
			await client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "form" });
			navigate(got.go ? addressOf(got.go) : `/${where.path}${where.record ? `/${where.record}` : ""}`, {
				state: { thanks: got.thanks },
				replace: !got.go,
			});
			if (!form.revision) setValues(start(form, form.state.questions));
			window.scrollTo(0, 0);
		},
		onError: (e) => {
			const found = Object.fromEntries(
				(e instanceof Problem ? e.mistakes : []).map((m) => [m.location ?? "", m.message ?? ""]),
			);
			setWrong(found);
			const first = ordered(form, questions).find((q) => found[q.column.id]);
			if (first) element.current?.querySelector<HTMLElement>(`#${CSS.escape(`${block}-${first.column.id}`)}`)?.focus();
		},
	});
	const submit = (e: FormEvent) => {
		e.preventDefault();
		send.mutate();
	};
	const change = (field: string, v: Value) => {
		touched.current = !onStage;
		setValues((now) => ({ ...now, [field]: v }));
		setWrong(({ [field]: _, ...others }) => others);
		cleared.forget(field);
	};
	if (form.order.length === 0 || (questions.length === 0 && !form.live))
		return <p className="empty">There is nothing for you to fill in here.</p>;
	return (
		<form ref={element} className="card form-card" onSubmit={submit} noValidate>
			{send.isError && (
				<p role="alert" className="note note-bad">
					{wordsOf(send.error)}
				</p>
			)}
			{before && !send.isError && (
				<p className="note">
					What you answered before is still here.{" "}
					<button
						type="button"
						className="text-link"
						onClick={() => {
							touched.current = false;
							forgetUnsent(kept);
							setBefore(null);
							setValues(at());
						}}
					>
						Start over
					</button>
				</p>
			)}
			{form.order.map((id) => {
				const part = state.parts[id];
				const between = part && blocks.get(id);
				if (between) return <BlockView key={id} block={between} where={where} />;
				const q = part && questions.find((x) => x.id === id);
				if (!q || !part) return null;
				const field = q.column.id;
				return (
					<QuestionView
						key={id}
						id={`${block}-${field}`}
						question={q}
						part={part}
						value={values[field] ?? startOf(form, q)}
						wrong={wrong[field] || (current && left[field] ? part.wrong : undefined)}
						note={cleared.notes[field]}
						onChange={(v) => change(field, v)}
						onLeave={() => setLeft((before) => ({ ...before, [field]: true }))}
						send={sendFormFile(block, field, where)}
						search={searchOf(form, where, q, part, () => answers(form, questions, values))}
					/>
				);
			})}
			<p>
				<button type="submit" className="button button-main" disabled={send.isPending}>
					{send.isPending ? "Sending …" : form.submit || "Send"}
				</button>
			</p>
		</form>
	);
}

const startOf = (form: Shown, q: Question) => start(form, [q])[q.column.id] ?? null;

const ordered = (form: Shown, questions: Question[]) =>
	[...questions].sort((x, y) => form.order.indexOf(x.id) - form.order.indexOf(y.id));

/** How records are searched for that a question offers, where there are too many to offer at once. */
function searchOf(form: Shown, where: Where, q: Question, part: Part, now: () => { [field: string]: unknown }) {
	if (part.more)
		return async (words: string) => {
			const got = await askForm(form.id, where, { answers: now(), have: form.order, search: { [q.id]: words } });
			return got.parts[q.id]?.options ?? [];
		};
	return q.more ? async (words: string) => (await getOptions(form.id, q.column.id, where, words)).options : undefined;
}

/** Takes away what was chosen and does not fit any more, and says so until something else is chosen. */
function useCleared(
	state: FormState,
	current: boolean,
	questions: Question[],
	values: Values,
	setValues: (to: (before: Values) => Values) => void,
) {
	const [notes, setNotes] = useState<Record<string, string>>({});
	useEffect(() => {
		if (!current) return;
		for (const q of questions) {
			const said = state.parts[q.id]?.cleared;
			if (!said || values[q.column.id] == null) continue;
			setValues((before) => ({ ...before, [q.column.id]: null }));
			setNotes((before) => ({ ...before, [q.column.id]: said }));
		}
	}, [state, current, questions, values, setValues]);
	return { notes, forget: (field: string) => setNotes(({ [field]: _, ...others }) => others) };
}

type Part = FormState["parts"][string];

interface QuestionProps {
	id: string;
	question: Question;
	part: Part;
	value: Value;
	wrong?: string;
	/** What happened to its answer. */
	note?: string;
	onChange: (v: Value) => void;
	onLeave: () => void;
	send: (file: File, progress: (part: number) => void) => Promise<FileInfo>;
	search?: (words: string) => Promise<RecordOption[]>;
}

function QuestionView({ id, question, part, value, wrong, note, onChange, onLeave, send, search }: QuestionProps) {
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
