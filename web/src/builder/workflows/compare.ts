import type { Rehearsal, Told } from "../api";
import { didWhat } from "./walk";

/** What a step did in two rehearsals; undefined where it was not done in one. */
export interface Differs {
	key: string;
	sentence: string;
	round: string;
	before?: string;
	now?: string;
}

/** A step with all that it did, in words that can be compared. */
function did(s: Told): string {
	const fields = s.writes.flatMap((w) => w.fields.map((f) => `${f.name}: ${f.after || "empty"}`));
	const made = s.made && s.what !== "round" && !fields.length ? s.made.shown || "empty" : "";
	const said = [didWhat(s) || s.what, made, ...fields, s.mail?.subject ?? "", s.call?.asked ?? ""];
	return [...new Set(said.filter((x) => x !== ""))].join(", ");
}

/** The steps of two rehearsals that did not do the same, in the order of the newer one. */
export function differences(before: Rehearsal, now: Rehearsal): Differs[] {
	const out = new Map<string, Differs>();
	const read = (of: Rehearsal, side: "before" | "now") => {
		const seen = new Map<string, number>();
		for (const s of of.steps) {
			const at = `${s.step} ${s.rounds.join(".")} ${s.what === "round" ? "round" : "step"}`;
			const n = (seen.get(at) ?? 0) + 1;
			seen.set(at, n);
			const key = `${at} ${n}`;
			const round = s.rounds.map((r) => r + 1).join(", ");
			const known = out.get(key) ?? { key, sentence: s.sentence || "A step that is not there any more", round };
			out.set(key, { ...known, [side]: did(s) });
		}
	};
	read(now, "now");
	read(before, "before");
	return [...out.values()].filter((d) => d.before !== d.now);
}
