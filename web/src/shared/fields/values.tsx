import type { components } from "../api/runtime.gen";

export type Column = components["schemas"]["Column"];
export type RecordOption = components["schemas"]["RecordOption"];

/** A record as the server sends it: values by the ids of fields, labels of links behind a ~. */
export type Row = { [key: string]: unknown };

/** What a field can hold, as it travels: numbers and dates as texts. */
export type Value = string | boolean | null;

export function fieldValue(row: Row, column: Column): Value {
	const v = row[column.id];
	return typeof v === "string" || typeof v === "boolean" ? v : null;
}

const numbers = new Intl.NumberFormat(undefined, { maximumFractionDigits: 12 });

/** A date in the reader's own order of words, without shifting it between time zones. */
export function dateText(iso: string): string {
	return new Date(`${iso}T00:00:00Z`).toLocaleDateString(undefined, {
		day: "numeric",
		month: "short",
		year: "numeric",
		timeZone: "UTC",
	});
}

/** The text by which a value is shown. */
export function valueText(row: Row, column: Column): string {
	const v = fieldValue(row, column);
	if (v === null) return "";
	switch (column.type) {
		case "number": {
			const n = Number(v);
			return Number.isSafeInteger(Math.trunc(n)) && String(v).length < 16 ? numbers.format(n) : String(v);
		}
		case "yes/no":
			return v ? "Yes" : "No";
		case "date":
			return dateText(String(v));
		case "choice":
			return column.choices?.find((c) => c.id === v)?.label ?? "Removed choice";
		case "link": {
			const label = row[`${column.id}~`];
			return typeof label === "string" && label ? label : "Not visible";
		}
	}
	return String(v);
}
