import type { Told } from "../api";
import { moment } from "../ui";

/** A value that steps can name, as it is at a place of a walk. */
export interface Known {
	name: string;
	/** Undefined where it is not made yet, "" where it is empty. */
	shown?: string;
	/** It was made by the step at which one is. */
	fresh: boolean;
}

/** A record as far as a run wrote to it, at a place of a walk. */
export interface Touched {
	record: string;
	table: string;
	label: string;
	kind: "added" | "changed" | "deleted";
	fields: { name: string; before: string; after: string; fresh: boolean }[];
	fresh: boolean;
}

export interface At {
	known: Known[];
	records: Touched[];
	mails: (NonNullable<Told["mail"]> & { fresh: boolean })[];
	calls: (NonNullable<Told["call"]> & { fresh: boolean })[];
}

/** How things are at a step: before it, or after it. */
export function stateAt(steps: Told[], at: number, after: boolean): At {
	const known = new Map<string, Known>();
	for (const s of steps) if (s.made?.name) known.set(s.made.name, { name: s.made.name, fresh: false });
	const records = new Map<string, Touched>();
	const mails: At["mails"] = [];
	const calls: At["calls"] = [];
	steps.slice(0, at + (after ? 1 : 0)).forEach((s, i) => {
		const fresh = i === at;
		if (s.made?.name) known.set(s.made.name, { name: s.made.name, shown: s.made.shown, fresh });
		for (const w of s.writes) {
			const was = records.get(w.record);
			const fields = [...(was?.fields ?? [])].map((f) => ({ ...f, fresh: false }));
			for (const f of w.fields) {
				const old = fields.findIndex((x) => x.name === f.name);
				const before = fields[old]?.before ?? f.before;
				if (old >= 0) fields.splice(old, 1);
				fields.push({ name: f.name, before, after: f.after, fresh });
			}
			const kind = w.kind === "changed" && was ? was.kind : w.kind;
			records.set(w.record, { record: w.record, table: w.table, label: w.label, kind, fields, fresh });
		}
		if (s.call) calls.push({ ...s.call, fresh });
		if (s.mail) mails.push({ ...s.mail, fresh });
	});
	return {
		known: [...known.values()],
		records: [...records.values()].reverse(),
		mails: mails.reverse(),
		calls: calls.reverse(),
	};
}

/** What a step did, in a few words. */
export function didWhat(s: Told): string {
	switch (s.what) {
		case "passed over":
			return "passed over";
		case "left":
			return s.looked.length > 0 ? "does not fit" : "not taken";
		case "took":
			return "taken";
		case "round":
			return s.made?.shown || "an empty one";
		case "back":
			return `gives back ${s.made?.shown || "nothing"}`;
		case "ended":
			return "repeated enough";
		case "asked":
			if (s.call) return s.call.problem || "waits for an answer";
			return s.until ? `waits until ${moment(s.until)}` : "stopped here";
	}
	if (s.until) return `waited until ${moment(s.until)}${s.made ? `: ${s.made.shown || "no"}` : ""}`;
	if (s.call) return s.call.problem || (s.call.sample ? "the sample answered" : "it answered");
	if (s.found !== undefined) return s.found === 1 ? "found 1" : `found ${s.found}`;
	if (s.mail) return s.mail.to.length === 0 ? "no address" : `to ${s.mail.to.join(", ")}`;
	if (s.writes.length === 1) return `${s.writes[0]?.kind} ${s.writes[0]?.label}`;
	if (s.writes.length > 1) return `${s.writes[0]?.kind} ${s.writes.length} records`;
	if (s.text) return `“${s.text}”`;
	return s.made ? s.made.shown || "empty" : "";
}

/** Where one gets from a step: past what is inside of it, into it, or out of the loop that it is in. */
export function stepFrom(steps: Told[], at: number, way: "over" | "into" | "out"): number {
	const depth = steps[at]?.rounds.length ?? 0;
	const to = steps.findIndex(
		(s, i) => i > at && (way === "into" || (way === "over" ? s.rounds.length <= depth : s.rounds.length < depth)),
	);
	return to < 0 ? steps.length - 1 : to;
}

/** The next step with a breakpoint, forwards or backwards; the end where there is none. */
export function continueFrom(steps: Told[], at: number, breaks: Set<string>, forward: boolean): number {
	for (let i = at + (forward ? 1 : -1); i >= 0 && i < steps.length; i += forward ? 1 : -1)
		if (breaks.has(steps[i]?.step ?? "")) return i;
	return forward ? steps.length - 1 : 0;
}

/** What a watch showed in each round of the loop in which a step is, at the end of the round. */
export function roundsOf(steps: Told[], at: number, watch: number): { round: number; shown: string }[] {
	const here = steps[at]?.rounds;
	if (!here || here.length === 0) return [];
	const outer = here.slice(0, -1).join(".");
	const out = new Map<number, string>();
	let from = at;
	while (from > 0 && (steps[from - 1]?.rounds.length ?? 0) >= here.length) from--;
	for (let i = from; i < steps.length && (steps[i]?.rounds.length ?? 0) >= here.length; i++) {
		const s = steps[i];
		if (s && s.rounds.slice(0, here.length - 1).join(".") === outer)
			out.set(s.rounds[here.length - 1] ?? 0, s.watched?.[watch] ?? "");
	}
	return [...out].map(([round, shown]) => ({ round, shown }));
}

/** Where a key leads, by the keys of the debugging trade and the arrows; nowhere for others. */
export function byKey(e: { key: string; shiftKey: boolean }, steps: Told[], at: number, breaks: Set<string>) {
	switch (e.key) {
		case "ArrowDown":
		case "ArrowRight":
			return at + 1;
		case "ArrowUp":
		case "ArrowLeft":
			return at - 1;
		case "Home":
			return 0;
		case "End":
			return steps.length - 1;
		case "F5":
			return continueFrom(steps, at, breaks, !e.shiftKey);
		case "F10":
			return stepFrom(steps, at, "over");
		case "F11":
			return stepFrom(steps, at, e.shiftKey ? "out" : "into");
	}
}
