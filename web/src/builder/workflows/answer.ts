import type { CallOut } from "../api";

/** What an answer holds, as JSON. */
export type Json = string | number | boolean | null | Json[] | { [name: string]: Json };

/** Reads an answer; undefined where it is no JSON. */
export function readJson(text: string): Json | undefined {
	try {
		return JSON.parse(text) as Json;
	} catch {
		return undefined;
	}
}

/** Where something is inside of what is at a pointer (RFC 6901). */
export function inside(pointer: string, name: string | number): string {
	return `${pointer}/${String(name).replaceAll("~", "~0").replaceAll("/", "~1")}`;
}

/** Where a call takes a value from that is at a pointer in a whole answer: from a row of it, where it answers rows. */
export function fromOf(call: CallOut, pointer: string): string {
	if (!call.rows) return pointer;
	const rows = call.rows === "/" ? "" : call.rows;
	if (!pointer.startsWith(`${rows}/`)) return pointer;
	return pointer.slice(rows.length).replace(/^\/\d+/, "");
}

/** The type of a value, by how it looks. */
export function typeOf(v: Json): string {
	if (typeof v === "number") return "number";
	if (typeof v === "boolean") return "yes/no";
	if (typeof v === "string" && /^\d{4}-\d\d-\d\d$/.test(v)) return "date";
	if (typeof v === "string" && /^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(v)) return "time stamp";
	return "text";
}

/** A name for what is at a pointer. */
export function nameOf(pointer: string): string {
	const last = (pointer.split("/").at(-1) ?? "").replaceAll("~1", "/").replaceAll("~0", "~").replaceAll("_", " ");
	const words = last.replace(/([a-z])([A-Z])/g, "$1 $2").toLowerCase();
	return words.charAt(0).toUpperCase() + words.slice(1);
}
