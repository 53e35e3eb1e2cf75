import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Problem, wordsOf } from "../../shared/api/client";
import type { FileInfo } from "../../shared/fields/files";
import type { Value } from "../../shared/fields/values";
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
import { useCleared } from "./form/cleared";
import { LineOfSteps } from "./form/LineOfSteps";
import { QuestionView } from "./form/QuestionView";
import { Review } from "./form/Review";
import { answers, type Question, start, useFormState, type Values } from "./form/state";
import { idsAt, type Place, review, type Step, stepsOf } from "./form/steps";

/** A form. The server decides what is asked, and what is right; what it finds wrong is shown at the question. */
export default function Form(props: BlockProps<"form">) {
	return <Questions key={props.block.revision} {...props} />;
}

/** What is kept of answers that were not sent yet, with the step at which somebody is. */
interface Kept {
	values: Values;
	step?: string;
}

function Questions({ block: form, where }: BlockProps<"form">) {
	const block = form.id;
	const [search] = useSearchParams();
	const at = () => start(form, form.state.questions, given(search));
	const kept = `${block} ${where.path} ${where.record} ${form.revision}`;
	const [before, setBefore] = useState(() => (onStage ? null : unsent<Kept>(kept)));
	const [values, setValues] = useState<Values>(() => ({ ...at(), ...before?.values }));
	const [stepID, setStepID] = useState(before?.step);
	const { state, current, questions, blocks, ask } = useFormState(form, where, values, stepID === review);
	const steps = stepsOf(form, state);
	const found = steps.findIndex((s) => s.id === stepID);
	const n = Math.max(found, 0);
	const step = steps[n];
	const [wrong, setWrong] = useState<Record<string, string>>({}); // of what was sent
	const [left, setLeft] = useState<Record<string, boolean>>({}); // questions that somebody was at
	const files = useRef(new Map<string, FileInfo>());
	const touched = useRef(false);
	useEffect(() => {
		if (touched.current) keepUnsent(kept, { values, step: stepID } satisfies Kept);
	}, [kept, values, stepID]);
	const cleared = useCleared(state, current, questions, values, setValues);
	const key = useRef("");
	const focus = useFocus();
	const navigate = useNavigate();
	const client = useQueryClient();
	const goTo = (to: Step | undefined) => {
		if (!to) return;
		setStepID(to.id);
		focus(`${block}-title`);
	};
	/** Shows what is wrong where it is, and goes to the first of it. */
	const refuse = (mistakes: Record<string, string>) => {
		setWrong(mistakes);
		const first = idsAt(form.order)
			.flatMap((id) => questions.find((q) => q.id === id) ?? [])
			.find((q) => mistakes[q.column.id]);
		if (!first) return;
		const of = steps.find((s) => idsAt(s.places).includes(first.id));
		if (of) setStepID(of.id);
		focus(`${block}-${first.column.id}`);
	};
	const next = useMutation({
		mutationFn: ask,
		onSuccess: (now) => {
			const mistakes = step ? mistakesAt(step, now, questions) : {};
			if (Object.keys(mistakes).length > 0) refuse(mistakes);
			else {
				const after = stepsOf(form, now);
				goTo(after[after.findIndex((s) => s.id === step?.id) + 1]);
			}
		},
	});
	const forget = () => {
		touched.current = false;
		forgetUnsent(kept);
		setBefore(null);
		setStepID(undefined);
	};
	const send = useMutation({
		mutationFn: () => {
			key.current ||= newKey();
			return sendForm(key.current, block, where, form.revision, answers(form, questions, values));
		},
		onSuccess: async (got) => {
			key.current = "";
			forget();
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
		onError: (e) =>
			refuse(
				Object.fromEntries((e instanceof Problem ? e.mistakes : []).map((m) => [m.location ?? "", m.message ?? ""])),
			),
	});
	const last = n >= steps.length - 1;
	const submit = (e: FormEvent) => {
		e.preventDefault();
		if (last) send.mutate();
		else next.mutate();
	};
	const change = (field: string, v: Value) => {
		touched.current = !onStage;
		setValues((now) => ({ ...now, [field]: v }));
		setWrong(({ [field]: _, ...others }) => others);
		cleared.forget(field);
	};
	if (form.order.length === 0 || (questions.length === 0 && !form.live))
		return <p className="empty">There is nothing for you to fill in here.</p>;
	const failed = send.error ?? next.error;
	const questionAt = (q: Question) => {
		const part = state.parts[q.id];
		const field = q.column.id;
		const upload = sendFormFile(block, field, where);
		return (
			part && (
				<QuestionView
					id={`${block}-${field}`}
					question={q}
					part={part}
					value={values[field] ?? startOf(form, q)}
					wrong={wrong[field] || (current && left[field] ? part.wrong : undefined)}
					note={cleared.notes[field]}
					onChange={(v) => change(field, v)}
					onLeave={() => setLeft((before) => ({ ...before, [field]: true }))}
					send={async (file, progress) => {
						const info = await upload(file, progress);
						files.current.set(info.id, info);
						return info;
					}}
					search={searchOf(form, where, q, part, () => answers(form, questions, values))}
				/>
			)
		);
	};
	const placeAt = (p: Place) => {
		const part = state.parts[p.id];
		if (!part) return null;
		if (p.of)
			return (
				<section key={p.id} className="form-section" data-block={onStage ? p.id : undefined}>
					{part.title && <h3>{part.title}</h3>}
					{p.of.map(placeAt)}
				</section>
			);
		const between = blocks.get(p.id);
		if (between) return <BlockView key={p.id} block={between} where={where} />;
		const q = questions.find((x) => x.id === p.id);
		return q && <div key={p.id}>{questionAt(q)}</div>;
	};
	return (
		<form className="card form-card" onSubmit={submit} noValidate>
			{failed && (
				<p role="alert" className="note note-bad">
					{wordsOf(failed)}
				</p>
			)}
			{before && !failed && (
				<p className="note">
					What you answered before is still here.{" "}
					<button
						type="button"
						className="text-link"
						onClick={() => {
							forget();
							setValues(at());
						}}
					>
						Start over
					</button>
				</p>
			)}
			{steps.length > 1 && (
				<>
					<LineOfSteps steps={steps} at={n} onGo={(to) => goTo(steps[to])} />
					<h2 id={`${block}-title`} className="form-title" tabIndex={-1} data-block={onStage ? step?.id : undefined}>
						{step?.title}
					</h2>
				</>
			)}
			{step?.id === review ? (
				<Review
					steps={steps}
					state={state}
					questions={questions}
					values={values}
					files={files.current}
					onBack={(to) => goTo(steps[to])}
				/>
			) : (
				step?.places.map(placeAt)
			)}
			<p className="form-acts">
				{n > 0 && (
					<button type="button" className="button" onClick={() => goTo(steps[n - 1])}>
						Back
					</button>
				)}
				<button type="submit" className="button button-main" disabled={send.isPending || next.isPending}>
					{send.isPending ? "Sending …" : last ? form.submit || "Send" : "Next"}
				</button>
			</p>
		</form>
	);
}

/** Puts the focus on an element once it is shown, and brings it into sight. */
function useFocus() {
	const [at, setAt] = useState<{ id: string }>();
	useEffect(() => {
		if (at) document.getElementById(at.id)?.focus();
	}, [at]);
	return (id: string) => setAt({ id });
}

/** What keeps somebody from going on from a step, by the fields. */
function mistakesAt(step: Step, state: FormState, questions: Question[]): Record<string, string> {
	const out: Record<string, string> = {};
	for (const id of idsAt(step.places)) {
		const part = state.parts[id];
		const said = part?.wrong || part?.cleared || part?.missing;
		const q = questions.find((x) => x.id === id);
		if (said && q) out[q.column.id] = said;
	}
	return out;
}

const startOf = (form: Shown, q: Question) => start(form, [q])[q.column.id] ?? null;

/** How records are searched for that a question offers, where there are too many to offer at once. */
function searchOf(
	form: Shown,
	where: Where,
	q: Question,
	part: FormState["parts"][string],
	now: () => { [field: string]: unknown },
) {
	if (part.more)
		return async (words: string) => {
			const got = await askForm(form.id, where, {
				answers: now(),
				have: idsAt(form.order),
				search: { [q.id]: words },
			});
			return got.parts[q.id]?.options ?? [];
		};
	return q.more ? async (words: string) => (await getOptions(form.id, q.column.id, where, words)).options : undefined;
}
