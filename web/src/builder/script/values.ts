import type { Change, Setting, Slot } from "../api";

export type Values = Record<string, unknown>;

/** What a slot holds: what was entered, or else what the setting has. */
export const held = (slot: Slot, entered: Values) => (slot.name in entered ? entered[slot.name] : slot.value);

const nothing = (v: unknown) =>
	v === null || v === undefined || v === "" || v === false || (Array.isArray(v) && v.length === 0);

const same = (a: unknown, b: unknown) =>
	JSON.stringify(a ?? null) === JSON.stringify(b ?? null) || (nothing(a) && nothing(b));

/** The values that differ from what the setting had when it was opened. */
export function changed(slots: Slot[], entered: Values, before: Slot[]): Values {
	const was = new Map(before.map((s) => [s.name, s.value]));
	const out: Values = {};
	for (const s of slots) {
		const now = held(s, entered);
		if (!same(now, was.get(s.name))) out[s.name] = nothing(now) && typeof now !== "boolean" ? (now ?? null) : now;
	}
	return out;
}

/** The change that a setting makes with what was entered; at is the place of something that is added. */
export function changeOf(setting: Setting, entered: Values, before: Slot[], at?: number): Change {
	if (!setting.add) return { kind: "set", of: setting.of, values: changed(setting.slots, entered, before) };
	const values: Values = {};
	for (const s of setting.slots) {
		const now = held(s, entered);
		if (!nothing(now)) values[s.name] = now;
	}
	return { kind: "add", ...setting.add, ...(at === undefined ? {} : { at }), values };
}

/** The place, after it left its own, of something that is dropped above or below what stands at a place. */
export function droppedAt(from: number, at: number, below: boolean): number {
	const to = below ? at + 1 : at;
	return from < to ? to - 1 : to;
}
