import { askForm, getOptions } from "../../place";
import { type Line, type Slot, sentOf } from "./filled";
import { idsAt } from "./steps";
import type { Filling } from "./use";

/** How records are searched for that a question offers, where there are too many to offer at once. */
export function searchOf({ form, where, state, questions, filled }: Filling, { q, part }: Slot, line?: Line) {
	if (part.more || (part.options && q.ask === "search"))
		return async (words: string) => {
			const got = await askForm(form.id, where, {
				...sentOf(form, state, questions, filled),
				have: idsAt(form.order),
				search: { [q.id]: words },
			});
			const of = line
				? Object.values(got.parts)
						.flatMap((p) => p.lines ?? [])
						.find((l) => l.key === line.key)?.parts
				: got.parts;
			return of?.[q.id]?.options ?? [];
		};
	return q.more || q.ask === "search"
		? async (words: string) => (await getOptions(form.id, q.column.id, where, words)).options
		: undefined;
}
