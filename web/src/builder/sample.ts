import type { AppOut, FieldOut } from "./api";

/** A field of boats, for tests: a text, where nothing else is said. */
export const field = (id: string, name: string, more: Partial<FieldOut> = {}): FieldOut =>
	({
		id,
		table: "boat",
		key: id,
		name,
		type: "text",
		kind: "text",
		entered: true,
		required: false,
		...more,
	}) as FieldOut;

/** The id of a role. */
export const crew = "crew";

/** An app with a table and a role, for tests. */
export const app = (more: Partial<AppOut> = {}): AppOut =>
	({
		id: "a1",
		slug: "yard",
		name: "Yard",
		revision: 7,
		liveVersion: 1,
		member: "owner",
		unpublished: 0,
		tables: [{ id: "boat", name: "Boats", word: "a boat", fields: [field("name", "Name")] }],
		roles: [{ id: "crew", name: "Crew", colour: 1, people: true }],
		pages: [],
		...more,
	}) as AppOut;
