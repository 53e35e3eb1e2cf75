import type { Change, Scope, Slot } from "./api";

type Values = Record<string, unknown>;

/** Whether a slot is shown, given what the others hold. */
export function shows(slot: Slot, values: Values): boolean {
	return !slot.when || slot.when.is.split("|").includes(String(values[slot.when.slot]));
}

/** The options of a slot, given what the others hold. */
export function offered(slot: Slot, values: Values) {
	return (slot.options ?? []).filter((o) => !o.when || o.when.is.split("|").includes(String(values[o.when.slot])));
}

/** The scope of an expression, with the link that another slot holds. */
export function scopeOf(slot: Slot, values: Values): Scope {
	const scope = slot.scope ?? { want: "value" };
	return scope.via ? { ...scope, via: String(values[scope.via] ?? "") } : scope;
}

/** Puts the values of the slots that are shown into the change, each at its path. */
export function fill(change: Change, slots: Slot[], values: Values): Change {
	const out = structuredClone(change);
	for (const slot of slots) {
		if (shows(slot, values)) put(out, slot.name.split("."), values[slot.name]);
	}
	return out;
}

function put(into: Values, path: string[], value: unknown) {
	const [first = "", ...rest] = path;
	if (rest.length === 0) {
		into[first] = value;
		return;
	}
	const next = into[first];
	const inner: Values = typeof next === "object" && next !== null ? (next as Values) : {};
	into[first] = inner;
	put(inner, rest, value);
}

/** The place, after it left its own, of something that is dropped above or below what stands at a place. */
export function droppedAt(from: number, at: number, below: boolean): number {
	const to = below ? at + 1 : at;
	return from < to ? to - 1 : to;
}
