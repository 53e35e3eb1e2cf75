import type { components } from "../api/runtime.gen";
import { region } from "../region";

export type Column = components["schemas"]["Column"];
export type RecordOption = components["schemas"]["RecordOption"];

/** A record as the server sends it: values by the ids of fields, labels of links behind a ~. */
export type Row = { [key: string]: unknown };

/** What a field can hold, as it travels: numbers and dates as texts, several choices or links as their ids. */
export type Value = string | boolean | string[] | null;

export function fieldValue(row: Row, column: Column): Value {
	const v = row[column.id];
	if (Array.isArray(v)) return v.map((x) => (typeof x === "string" ? x : String((x as RecordOption).id)));
	return typeof v === "string" || typeof v === "boolean" ? v : null;
}

/** What is done to the links of a field: those that are not named stay, also those that nobody showed. */
export interface LinksEdit {
	added: string[];
	removed: string[];
}

/** A value as it is sent, where the row is what it was edited from: of several links only what is other than there. */
export function sentValue(row: Row, column: Column, value: Value): Value | LinksEdit {
	if (column.type !== "links") return value;
	const before = fieldValue(row, column);
	const had = Array.isArray(before) ? before : [];
	const now = Array.isArray(value) ? value : [];
	return { added: now.filter((x) => !had.includes(x)), removed: had.filter((x) => !now.includes(x)) };
}

/** The records that a field of links leads to, as far as they stand in the row, and how many there are. */
export function linkedRecords(row: Row, column: Column): { records: RecordOption[]; count: number } {
	const v = row[column.id];
	const records = Array.isArray(v) ? (v as RecordOption[]) : [];
	const count = row[`${column.id}~`];
	return { records, count: typeof count === "number" ? count : records.length };
}

/** A date in the reader's own order of words, without shifting it between time zones. */
export function dateText(iso: string): string {
	return new Date(`${iso}T00:00:00Z`).toLocaleDateString(region(), {
		day: "numeric",
		month: "short",
		year: "numeric",
		timeZone: "UTC",
	});
}

export function timeText(iso: string): string {
	return new Date(iso).toLocaleString(region(), {
		day: "numeric",
		month: "short",
		year: "numeric",
		hour: "2-digit",
		minute: "2-digit",
	});
}

/** A number as people read it; one with more digits than a browser can hold is shown as it came. */
function grouped(v: string, decimals: number | undefined, style: Intl.NumberFormatOptions = {}): string {
	const n = Number(v);
	if (!Number.isSafeInteger(Math.trunc(n)) || v.length >= 17) return v;
	const places =
		decimals === undefined
			? { maximumFractionDigits: style.style === "currency" ? 2 : 12 }
			: { minimumFractionDigits: decimals, maximumFractionDigits: decimals };
	return new Intl.NumberFormat(region(), { ...style, ...places }).format(n);
}

export function numberText(v: string, column: Column): string {
	const unit = column.unit ? ` ${column.unit}` : "";
	switch (column.type) {
		case "percentage":
			return grouped(v, column.decimals, { style: "percent" });
		case "duration": {
			const minutes = Math.round(Math.abs(Number(v)) * 60);
			return `${Number(v) < 0 ? "−" : ""}${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
		}
	}
	if (column.show === "year") return `${v}${unit}`;
	if (column.currency) return grouped(v, column.decimals ?? 2, { style: "currency", currency: column.currency });
	return grouped(v, column.decimals) + unit;
}

const choiceText = (column: Column, id: string) => column.choices?.find((c) => c.id === id)?.label ?? "Removed choice";

/** The text by which a value is shown. */
export function valueText(row: Row, column: Column): string {
	if (column.many && column.kind === "record") {
		const { records, count } = linkedRecords(row, column);
		const names = records.map((r) => r.label || "(no name)").join(", ");
		return count > records.length ? `${names} and ${count - records.length} more` : names;
	}
	if (column.kind === "file") {
		const files = row[`${column.id}~`];
		return Array.isArray(files) ? files.map((f: { name: string }) => f.name).join(", ") : "";
	}
	const v = fieldValue(row, column);
	if (v === null) return "";
	if (Array.isArray(v)) return v.map((id) => choiceText(column, id)).join(", ");
	switch (column.kind) {
		case "number":
			return numberText(String(v), column);
		case "yes/no":
			return v ? "Yes" : "No";
		case "date":
			return dateText(String(v));
		case "time stamp":
			return timeText(String(v));
		case "choice":
			return choiceText(column, String(v));
		case "record": {
			const label = row[`${column.id}~`];
			return typeof label === "string" && label ? label : "Hidden";
		}
	}
	return String(v);
}

/** The text in which a value is edited, and in which it travels to spreadsheets. */
export function editText(row: Row, column: Column): string {
	const v = fieldValue(row, column);
	if (v === null) return "";
	if (column.type === "percentage" && typeof v === "string") {
		const n = Number(v) * 100;
		return `${Number(n.toPrecision(15))}%`;
	}
	if (column.kind === "time stamp" && typeof v === "string") {
		const d = new Date(v);
		const two = (n: number) => String(n).padStart(2, "0");
		return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}T${two(d.getHours())}:${two(d.getMinutes())}`;
	}
	if (column.type === "duration") return numberText(String(v), column).replace("−", "-");
	if (column.kind === "choice" || column.kind === "record" || column.kind === "file") return valueText(row, column);
	if (column.kind === "yes/no") return v ? "yes" : "no";
	return String(v);
}

/** What was typed, as it travels. */
export function enteredValue(text: string, column: Column): Value {
	const t = text.trim();
	if (t === "") return null;
	if (column.type === "percentage") return /%$/.test(t) ? t : `${t}%`;
	if (column.kind === "time stamp" && /^\d{4}-\d\d-\d\dT\d\d:\d\d$/.test(t))
		return new Date(t).toISOString().replace(".000", "");
	return text;
}
