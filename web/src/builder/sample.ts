import type { FieldOut } from "./api";

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
