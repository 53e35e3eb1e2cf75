import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { fieldValue, type Row, sentValue, type Value } from "../../../shared/fields/values";
import { askForm, type Block, type FormState, type Form as Shown, type Where } from "../../place";

export type Question = FormState["questions"][number];
export type Values = { [field: string]: Value };

export const rowOf = (q: Question): Row => ({ [q.column.id]: q.value, [`${q.column.id}~`]: q.count });

/** What questions hold before anybody answers them. */
export function start(form: Shown, questions: Question[], given: { [field: string]: string } = {}): Values {
	const before = (q: Question) => (form.revision ? undefined : prefilled(q.column, given[q.column.id]));
	return Object.fromEntries(questions.map((q) => [q.column.id, before(q) ?? fieldValue(rowOf(q), q.column)]));
}

/** What an address fills in: a day. All else could be a link that has somebody send what they did not mean. */
function prefilled(column: Question["column"], day: string | undefined): string | undefined {
	if (!day || !/^\d{4}-\d\d-\d\d$/.test(day) || Number.isNaN(Date.parse(day))) return undefined;
	if (column.type === "date") return day;
	return column.type === "time stamp" ? new Date(`${day}T09:00`).toISOString().replace(".000", "") : undefined;
}

/**
 * The answers to questions. A form that changes a record sends only what was changed: what stands in it may be more than
 * is shown here, such as a link to a record that others see.
 */
export function answers(form: Shown, questions: Question[], values: Values) {
	const before = start(form, questions);
	const same = (id: string) => JSON.stringify(values[id] ?? null) === JSON.stringify(before[id] ?? null);
	return Object.fromEntries(
		questions
			.filter((q) => !form.revision || !same(q.column.id))
			.map((q) => [q.column.id, sentValue(rowOf(q), q.column, values[q.column.id] ?? null)]),
	);
}

const pause = 180; // ms after which an answer counts as given for now

/** A value once it stays as it is for a moment, or is settled. */
function useSettled<T>(value: T): [T, (now: T) => void] {
	const [settled, setSettled] = useState(value);
	useEffect(() => {
		const timer = setTimeout(() => setSettled(value), pause);
		return () => clearTimeout(timer);
	}, [value]);
	return [settled, setSettled];
}

interface Held {
	questions: Map<string, Question>;
	blocks: Map<string, Block>;
}

function held(state: FormState, before?: Held): Held {
	return {
		questions: new Map([...(before?.questions ?? []), ...state.questions.map((q) => [q.id, q] as const)]),
		blocks: new Map([...(before?.blocks ?? []), ...state.blocks.map((b) => [b.id, b] as const)]),
	};
}

/**
 * How a form is with what is answered. The server decides; it is asked once somebody pauses, and what it says of answers
 * that are others by then is not taken for these.
 */
export function useFormState(form: Shown, where: Where, values: Values, reviewing: boolean) {
	const [all, setAll] = useState(() => held(form.state));
	const shown = (state: FormState, of: Held) => [...of.questions.values()].filter((q) => state.parts[q.id]);
	const now = useRef(form.state);
	const sent = JSON.stringify(answers(form, shown(now.current, all), values));
	const [settled, settle] = useSettled(sent);
	const atFirst =
		!reviewing && settled === JSON.stringify(answers(form, form.state.questions, start(form, form.state.questions)));
	const asking = (what: string, review: boolean) => ({
		queryKey: ["form", form.id, where, what, review],
		staleTime: Number.POSITIVE_INFINITY,
		queryFn: () =>
			askForm(form.id, where, {
				answers: JSON.parse(what),
				have: [...all.questions.keys(), ...all.blocks.keys()],
				review,
			}),
	});
	const asked = useQuery({
		...asking(settled, reviewing),
		enabled: (form.live || reviewing) && !atFirst,
		placeholderData: (before) => before,
	});
	useEffect(() => {
		if (asked.data && asked.data.questions.length + asked.data.blocks.length > 0) {
			const came = asked.data;
			setAll((before) => held(came, before));
		}
	}, [asked.data]);
	useEffect(() => setAll((before) => held(form.state, before)), [form.state]); // read anew, as something changed
	const client = useQueryClient();
	/** How it is with the answers as they are, without waiting for a pause. */
	const ask = async () => {
		const got = await client.fetchQuery(asking(sent, false));
		settle(sent);
		return got;
	};
	const state = ((form.live || reviewing) && !atFirst && asked.data) || form.state;
	now.current = state;
	const known = held(state, all); // also what came just now
	const current = settled === sent && (atFirst || (!asked.isPlaceholderData && !asked.isFetching));
	return { state, current, questions: shown(state, known), blocks: known.blocks, ask };
}
