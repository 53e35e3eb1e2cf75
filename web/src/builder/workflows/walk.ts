import type { Told } from "../api";

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
	mails: { to: string[]; subject: string; plain: string; fresh: boolean }[];
}

/** How things are at a step: before it, or after it. */
export function stateAt(steps: Told[], at: number, after: boolean): At {
	const known = new Map<string, Known>();
	for (const s of steps) if (s.made?.name) known.set(s.made.name, { name: s.made.name, fresh: false });
	const records = new Map<string, Touched>();
	const mails: At["mails"] = [];
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
		if (s.mail) mails.push({ ...s.mail, fresh });
	});
	return { known: [...known.values()], records: [...records.values()].reverse(), mails: mails.reverse() };
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
		case "asked":
			return "stopped here";
	}
	if (s.found !== undefined) return s.found === 1 ? "found 1" : `found ${s.found}`;
	if (s.mail) return s.mail.to.length === 0 ? "no address" : `to ${s.mail.to.join(", ")}`;
	if (s.writes.length === 1) return `${s.writes[0]?.kind} ${s.writes[0]?.label}`;
	if (s.writes.length > 1) return `${s.writes[0]?.kind} ${s.writes.length} records`;
	if (s.text) return `“${s.text}”`;
	return s.made ? s.made.shown || "empty" : "";
}
