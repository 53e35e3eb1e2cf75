import { fieldValue, type Row, sentValue, type Value } from "../../../shared/fields/values";
import { type FormState, newKey, type Form as Shown } from "../../place";
import { byAddress } from "./given";
import type { Place } from "./steps";

export type Question = FormState["questions"][number];
export type Part = FormState["parts"][string];
export type Values = { [field: string]: Value };

/** What is answered about a record that goes with the form: a new one, or one that is there, with what that held. */
export interface Line {
	key: string;
	record?: string;
	revision?: number;
	removed?: boolean;
	row: Row;
	values: Values;
}

/** All that is answered: to the form's own questions, and about what goes with it by the ids of blocks. */
export interface Filled {
	values: Values;
	lines: { [block: string]: Line[] };
}

/** A question where it is asked: by the id of its field or, of a line, behind those of the block and the line. */
export interface Slot {
	path: string;
	q: Question;
	part: Part;
	/** What it held before anybody answered. */
	row: Row;
}

export const rowOf = (q: Question): Row => ({ [q.column.id]: q.value, [`${q.column.id}~`]: q.count });

export const pathOf = (block: string, line: Line, q: Question) => `${block}/${line.key}/${q.column.id}`;

/** The answer at a path. */
export function valueAt(filled: Filled, path: string): Value | undefined {
	const [block = "", key, field = ""] = path.split("/");
	return key === undefined ? filled.values[block] : filled.lines[block]?.find((l) => l.key === key)?.values[field];
}

/** What is answered, with another answer at a path. */
export function withValue(filled: Filled, path: string, v: Value): Filled {
	const [block = "", key, field = ""] = path.split("/");
	if (key === undefined) return { ...filled, values: { ...filled.values, [block]: v } };
	const lines = (filled.lines[block] ?? []).map((l) =>
		l.key === key ? { ...l, values: { ...l.values, [field]: v } } : l,
	);
	return { ...filled, lines: { ...filled.lines, [block]: lines } };
}

/** What goes with the form, as it stands in it or in its sections. */
export const withs = (places: Place[]): Place[] => places.flatMap((p) => (p.with ? [p] : p.of ? withs(p.of) : []));

/** What questions hold before anybody answers them; of a new record, what the address fills in goes before. */
export function start(form: Shown, questions: Question[], params?: URLSearchParams): Values {
	const before = (q: Question) => (form.revision || !params ? undefined : byAddress(q, params));
	return Object.fromEntries(questions.map((q) => [q.column.id, before(q) ?? fieldValue(rowOf(q), q.column)]));
}

/** A new line, with what its questions start as. */
export function freshLine(form: Shown, questions: Question[]): Line {
	return { key: newKey(), row: {}, values: start({ ...form, revision: 0 }, questions) };
}

/** The lines with which something that goes with the form begins, as the server says. */
export function firstLines(form: Shown, part: Part | undefined, questions: Question[]): Line[] {
	return (part?.lines ?? []).map((l) => {
		const key = l.key || newKey();
		if (!l.record) return { ...freshLine(form, questions), key };
		const row = l.row ?? {};
		const values = Object.fromEntries(questions.map((q) => [q.column.id, fieldValue(row, q.column)]));
		return { key, record: l.record, revision: l.revision, row, values };
	});
}

/** With what is filled in, the first lines of what goes with the form and is shown for the first time. */
export function withFirstLines(form: Shown, state: FormState, questions: Question[], filled: Filled): Filled {
	const fresh = withs(form.order).filter((p) => state.parts[p.id] && !filled.lines[p.id]);
	if (fresh.length === 0) return filled;
	const lines = fresh.map((p) => [p.id, firstLines(form, state.parts[p.id], questionsAt(p.of, questions))]);
	return { ...filled, lines: { ...filled.lines, ...Object.fromEntries(lines) } };
}

/** What is filled in before anybody answers. */
export const begun = (form: Shown, params?: URLSearchParams): Filled =>
	withFirstLines(form, form.state, form.state.questions, {
		values: start(form, form.state.questions, params),
		lines: {},
	});

/** The questions that stand at places. */
export const questionsAt = (places: Place[] | undefined, questions: Question[]) =>
	(places ?? []).flatMap((p) => questions.find((q) => q.id === p.id) ?? []);

/** What the parts of a line are; nothing of one that the server does not know yet. */
export const partsOf = (state: FormState, block: string, line: Line): FormState["parts"] =>
	state.parts[block]?.lines?.find((l) => l.key === line.key)?.parts ?? {};

/**
 * The answers as they are sent. Of a record that is there only what was changed goes: what stands in it may be more than
 * is shown here, such as a link to a record that others see. What is only shown is no answer.
 */
export function sentOf(form: Shown, state: FormState, questions: Question[], filled: Filled) {
	const blocks = withs(form.order);
	const lined = new Set(blocks.flatMap((p) => (p.of ?? []).map((x) => x.id)));
	const own = questions.filter((q) => state.parts[q.id] && !lined.has(q.id));
	const answers = sentValues(own, filled.values, form.revision ? start(form, own) : undefined, rowOf);
	const lines = blocks
		.filter((p) => state.parts[p.id] && filled.lines[p.id])
		.map((p) => [p.id, (filled.lines[p.id] ?? []).map((l) => sentLine(l, p, state, questions))]);
	return lines.length > 0 ? { answers, with: Object.fromEntries(lines) } : { answers };
}

function sentLine(line: Line, block: Place, state: FormState, questions: Question[]) {
	const { key, record, revision, removed } = line;
	if (removed) return { key, record, revision, removed };
	const parts = partsOf(state, block.id, line);
	const known = Object.keys(parts).length > 0;
	const asked = questionsAt(block.of, questions).filter((q) => !known || parts[q.id]);
	const before = record
		? Object.fromEntries(asked.map((q) => [q.column.id, fieldValue(line.row, q.column)]))
		: undefined;
	return { key, record, revision, answers: sentValues(asked, line.values, before, () => line.row) };
}

function sentValues(questions: Question[], values: Values, before: Values | undefined, row: (q: Question) => Row) {
	const same = (id: string) => JSON.stringify(values[id] ?? null) === JSON.stringify(before?.[id] ?? null);
	return Object.fromEntries(
		questions
			.filter((q) => !q.shown && !(before && same(q.column.id)))
			.map((q) => [q.column.id, sentValue(row(q), q.column, values[q.column.id] ?? null)]),
	);
}

/** All questions that are shown, where they are asked, in their order. */
export function slotsAt(places: Place[], state: FormState, questions: Question[], filled: Filled): Slot[] {
	return places.flatMap((p): Slot[] => {
		const part = state.parts[p.id];
		if (!part) return [];
		if (p.with)
			return (filled.lines[p.id] ?? []).filter((l) => !l.removed).flatMap((l) => lineSlots(p, l, state, questions));
		if (p.of) return slotsAt(p.of, state, questions, filled);
		const q = questions.find((x) => x.id === p.id);
		return q ? [{ path: q.column.id, q, part, row: rowOf(q) }] : [];
	});
}

/** The questions of a line, where they are asked. */
export function lineSlots(block: Place, line: Line, state: FormState, questions: Question[]): Slot[] {
	const parts = partsOf(state, block.id, line);
	return questionsAt(block.of, questions).flatMap((q) => {
		const part = parts[q.id];
		const row = line.record ? line.row : rowOf(q);
		return part ? [{ path: pathOf(block.id, line, q), q, part, row }] : [];
	});
}
