import type { CSSProperties } from "react";
import type { Row } from "../../../shared/fields/values";
import type { Records } from "../../place";

/** The choice that a record has in a field that the list shows. */
export function choiceOf(list: Records, row: Row, field?: string) {
	const column = field ? [...list.columns, ...list.fields].find((c) => c.id === field) : undefined;
	return column?.choices?.find((c) => c.id === row[column.id]);
}

/** How a record stands out: by the tone whose condition it fits, or else in the colour of a choice. */
export function lookOf(list: Records, row: Row): { "data-tone"?: string; style?: CSSProperties } {
	const tone = list.tones?.[String(row.id)];
	if (tone) return { "data-tone": tone };
	const colour = list.tint === list.board?.field ? "" : choiceOf(list, row, list.tint)?.colour; // which its column has
	return colour ? { "data-tone": "own", style: { "--tone": colour } as CSSProperties } : {};
}
