import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useContext, useEffect, useLayoutEffect, useRef, useState } from "react";
import { useLocation, useNavigate, useSearchParams } from "react-router";
import { Problem } from "../../../shared/api/client";
import type { FileInfo } from "../../../shared/fields/files";
import type { Value } from "../../../shared/fields/values";
import { addressOf, type FormState, newKey, onStage, type Form as Shown, sendForm, type Where } from "../../place";
import { sayOnReturn } from "../../thanks";
import { forgetUnsent, keepUnsent, keptAs, unsent } from "../../unsent";
import { AfterForm } from "./after";
import { useCleared } from "./cleared";
import {
	begun,
	type Filled,
	freshLine,
	questionsAt,
	sentOf,
	slotsAt,
	valueAt,
	withFirstLines,
	withs,
	withValue,
} from "./filled";
import { useFormState } from "./state";
import { review, type Step, stepsOf } from "./steps";

/** What is kept of answers that were not sent yet, with the step at which somebody is. */
interface Kept {
	filled: Filled;
	step?: string;
	/** That of the form: sent from another tab with the same answers, it is one. */
	key?: string;
}

export type Filling = ReturnType<typeof useFilling>;

/** Sends answers otherwise than those of forms on pages are sent. They stay here until they are forgotten by their name. */
export type Send = (answers: { [field: string]: unknown }) => Promise<void>;

/** A form that somebody fills in: what they answered, how the form is by that, and at which step they are. */
export function useFilling(form: Shown, where: Where, own?: Send) {
	const block = form.id;
	const [search] = useSearchParams();
	const kept = keptAs(form, where);
	const [before, setBefore] = useState(() => (onStage ? null : unsent<Kept>(kept)));
	const [filled, setFilled] = useState<Filled>(() => {
		const at = begun(form, search);
		if (!before) return at;
		return {
			values: { ...at.values, ...before.filled.values },
			lines: { ...at.lines, ...before.filled.lines },
		};
	});
	const [stepID, setStepID] = useState(before?.step);
	const { state, current, questions, blocks, ask } = useFormState(form, where, filled, stepID === review);
	useEffect(() => setFilled((now) => withFirstLines(form, state, questions, now)), [form, state, questions]);
	const steps = stepsOf(form, state);
	const n = Math.max(
		steps.findIndex((s) => s.id === stepID),
		0,
	);
	const step = steps[n];
	const [wrong, setWrong] = useState<Record<string, string>>({}); // of what was sent, by paths
	const [left, setLeft] = useState<Record<string, boolean>>({}); // questions that somebody was at
	const files = useRef(new Map<string, FileInfo>());
	const key = useRef(before?.key ?? "");
	const touched = useRef(false);
	useEffect(() => {
		if (touched.current) keepUnsent(kept, { filled, step: stepID, key: key.current } satisfies Kept);
	}, [kept, filled, stepID]);
	const cleared = useCleared(slotsAt(form.order, state, questions, filled), current, filled, setFilled);
	const focus = useFocus();
	const navigate = useNavigate();
	const location = useLocation();
	const after = useContext(AfterForm);
	const [website, setWebsite] = useState("");
	const client = useQueryClient();
	const goTo = (to: Step | undefined) => {
		if (!to) return;
		setStepID(to.id);
		focus(`${block}-title`);
	};
	const latest = useRef(filled);
	latest.current = filled;
	/** Shows what is wrong with answers where it is, unless it was answered otherwise since, and goes to the first of it. */
	const refuse = (all: Record<string, string>, about: Filled) => {
		const mistakes = Object.fromEntries(
			Object.entries(all).filter(([path]) => same(valueAt(about, path), valueAt(latest.current, path))),
		);
		setWrong(mistakes);
		for (const s of steps)
			for (const path of pathsAt(s, state, questions, filled))
				if (mistakes[path]) {
					setStepID(s.id);
					focus(idOf(block, path));
					return;
				}
	};
	const next = useMutation({
		mutationFn: (_: Filled) => ask(),
		onSuccess: (now, about) => {
			const mistakes = step ? mistakesAt(step, now, questions, about) : {};
			if (Object.keys(mistakes).length > 0) refuse(mistakes, about);
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
	/** What is sent by now; what the last answers hide is not. */
	const sending = async () => sentOf(form, current || !form.live ? state : await ask(), questions, filled);
	const refused = (e: unknown, about: Filled) => {
		if (e instanceof Problem) refuse(placed(e, about), about);
	};
	const send = useMutation({
		mutationFn: async (_: Filled) => {
			key.current ||= newKey();
			const sent = await sending();
			if (own) await own(sent.answers);
			else return sendForm(key.current, block, where, form.revision, { ...sent, stamp: form.stamp, website });
		},
		onSuccess: async (got) => {
			if (!got) return;
			key.current = "";
			forget();
			setWrong({});
			setLeft({});
			// how the form was with what is sent by now is not asked again
			await client.invalidateQueries({ queryKey: ["form"], refetchType: "none" });
			await client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "form" });
			if (!form.revision) setFilled(begun(form));
			if (after?.(got)) return;
			if (form.back && location.key !== "default") {
				sayOnReturn(got.thanks);
				return navigate(-1);
			}
			navigate(got.go ? addressOf(got.go) : `/${where.path}${where.record ? `/${where.record}` : ""}`, {
				state: { thanks: got.thanks },
				replace: !got.go,
			});
			window.scrollTo(0, 0);
		},
		onError: (e, about) => {
			if (e instanceof Problem && e.status >= 400 && e.status < 500) key.current = newKey(); // nothing was written with the other
			refused(e, about);
		},
	});
	const touch = (to: (before: Filled) => Filled) => {
		touched.current = !onStage;
		key.current ||= newKey();
		setFilled(to);
	};
	return {
		form,
		where,
		state,
		current,
		questions,
		blocks,
		filled,
		steps,
		n,
		step,
		wrong,
		left,
		notes: cleared.notes,
		files: files.current,
		/** What only programs fill in. */
		website,
		setWebsite,
		/** Answers were there from before. */
		before: Boolean(before),
		failed: send.error ?? next.error,
		now: sending,
		refused,
		sending: send.isPending,
		busy: send.isPending || next.isPending,
		goTo,
		next: () => next.mutate(filled),
		send: () => send.mutate(filled),
		startOver: () => {
			forget();
			setFilled(begun(form, search));
		},
		answer: (path: string, v: Value) => {
			touch((now) => withValue(now, path, v));
			setWrong(({ [path]: _, ...others }) => others);
			cleared.forget(path);
		},
		/** Answers all as was answered before. */
		answerAll: (all: Filled) => {
			touch(() => all);
			setWrong({});
		},
		leave: (path: string) => setLeft((now) => ({ ...now, [path]: true })),
		addLine: (id: string) => {
			const p = withs(form.order).find((x) => x.id === id);
			const line = freshLine(form, questionsAt(p?.of, questions));
			touch((now) => ({ ...now, lines: { ...now.lines, [id]: [...(now.lines[id] ?? []), line] } }));
			const first = questionsAt(p?.of, questions).find((q) => !q.shown);
			if (first) focus(idOf(block, `${id}/${line.key}/${first.column.id}`));
		},
		removeLine: (id: string, line: string) => {
			touch((now) => ({
				...now,
				lines: {
					...now.lines,
					[id]: (now.lines[id] ?? []).flatMap((l) => {
						if (l.key !== line) return [l];
						return l.record ? [{ ...l, removed: true }] : [];
					}),
				},
			}));
			focus(`${block}-${id}-add`);
		},
		keepLine: (id: string, line: string) =>
			touch((now) => ({
				...now,
				lines: {
					...now.lines,
					[id]: (now.lines[id] ?? []).map((l) => (l.key === line ? { ...l, removed: undefined } : l)),
				},
			})),
	};
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** The id of the element in which a question is answered. */
export const idOf = (block: string, path: string) => `${block}-${path.replaceAll("/", "-")}`;

/**
 * Puts the focus on an element when it is shown, and brings it into sight: before it is painted, as somebody who
 * sees what is wrong types at once.
 */
function useFocus() {
	const [at, setAt] = useState<{ id: string }>();
	useLayoutEffect(() => {
		if (at) document.getElementById(at.id)?.focus();
	}, [at]);
	return (id: string) => setAt({ id });
}

type Questions = Parameters<typeof slotsAt>[2];

/** Where in a step something can be wrong, in order: at questions, and at what goes with the form as a whole. */
function pathsAt(step: Step, state: FormState, questions: Questions, filled: Filled): string[] {
	return [...slotsAt(step.places, state, questions, filled).map((s) => s.path), ...withs(step.places).map((p) => p.id)];
}

/** What keeps somebody from going on from a step, by paths. */
function mistakesAt(step: Step, state: FormState, questions: Questions, filled: Filled): Record<string, string> {
	const out: Record<string, string> = {};
	for (const { path, part } of slotsAt(step.places, state, questions, filled)) {
		const said = part.wrong || part.cleared || part.missing;
		if (said) out[path] = said;
	}
	for (const p of withs(step.places)) {
		const said = state.parts[p.id]?.wrong || state.parts[p.id]?.missing;
		if (said) out[p.id] = said;
	}
	return out;
}

/** What the server finds wrong, by paths: it counts lines. */
function placed(e: Problem, filled: Filled): Record<string, string> {
	return Object.fromEntries(
		e.mistakes.map((m) => {
			const [block = "", n, field] = (m.location ?? "").split("/");
			const line = filled.lines[block]?.[Number(n)];
			return [n === undefined || !line ? block : `${block}/${line.key}/${field}`, m.message ?? ""];
		}),
	);
}
