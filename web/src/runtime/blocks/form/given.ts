import { enteredValue, type Value } from "../../../shared/fields/values";
import { given } from "../../asks";
import type { Question } from "./filled";

const most = 500; // characters that an address fills in

/**
 * What the address fills in for a question: a day, on which a calendar adds something, and what the question says that it
 * takes. All else could be a link that has somebody send what they did not mean.
 */
export function byAddress(q: Question, params: URLSearchParams): Value | undefined {
	const day = prefilled(q.column, given(params)[q.column.id]);
	const text = q.param ? params.get(q.param)?.slice(0, most).trim() : undefined;
	return text ? read(q, text) : day;
}

function prefilled(column: Question["column"], day: string | undefined): string | undefined {
	if (!day || !/^\d{4}-\d\d-\d\d$/.test(day) || Number.isNaN(Date.parse(day))) return undefined;
	if (column.type === "date") return day;
	return column.type === "time stamp" ? new Date(`${day}T09:00`).toISOString().replace(".000", "") : undefined;
}

/** A value as it stands in an address: choices by their words, records by their ids or labels. */
function read({ column, options }: Question, text: string): Value | undefined {
	const alike = (x: string) => x.trim().toLowerCase() === text.toLowerCase();
	switch (column.kind) {
		case "yes/no":
			return ["yes", "true", "1"].some(alike) || (["no", "false", "0"].some(alike) ? false : undefined);
		case "choice": {
			const found = column.choices?.find((c) => !c.retired && (c.id === text || alike(c.label)))?.id;
			return found && column.many ? [found] : found;
		}
		case "record": {
			const found = options?.find((o) => o.id === text || alike(o.label))?.id;
			return found && column.many ? [found] : found;
		}
		case "file":
			return undefined;
		case "date":
			return prefilled(column, text);
	}
	return enteredValue(text, column);
}
