import type { Group, NameHelp, PlainRow } from "../api";

/** The relations that can be picked for a kind of value. */
export function relationsFor(kind: string): { value: string; label: string }[] {
	const filled = [
		{ value: "filled", label: "is filled in" },
		{ value: "empty", label: "is empty" },
	];
	const equal = [
		{ value: "=", label: "is" },
		{ value: "<>", label: "is not" },
	];
	switch (kind) {
		case "yes/no":
			return [
				{ value: "yes", label: "is yes" },
				{ value: "no", label: "is no" },
			];
		case "choice":
			return [...equal, ...filled];
		case "record":
			return [{ value: "me", label: "is the signed-in person" }, ...filled];
		case "number":
			return [
				...equal,
				{ value: ">", label: "is more than" },
				{ value: ">=", label: "is at least" },
				{ value: "<", label: "is less than" },
				{ value: "<=", label: "is at most" },
				...filled,
			];
		case "date":
		case "time stamp":
			return [
				{ value: "=", label: "is on" },
				{ value: "<", label: "is before" },
				{ value: ">", label: "is after" },
				...filled,
			];
	}
	return [...equal, { value: "contains", label: "contains" }, ...filled];
}

const needsValue = (relation: string) => !["filled", "empty", "yes", "no", "me"].includes(relation);

export { needsValue };

const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;

/** A comparison as an expression. */
function rowText(row: PlainRow, names: NameHelp[]): string {
	if (row.group) return `(${groupText(row.group, names)})`;
	const field = row.field ?? "";
	const kind = names.find((n) => n.name === field)?.kind;
	const value = kind === "number" ? row.value?.trim() || "0" : quoted(row.value ?? "");
	switch (row.relation) {
		case "filled":
			return `${field} <> empty`;
		case "empty":
			return `ISBLANK(${field})`;
		case "yes":
			return field;
		case "no":
			return `not ${field}`;
		case "me":
			return `${field} = me`;
		case "contains":
			return `CONTAINS(${field}, ${value})`;
	}
	return `${field} ${row.relation} ${value}`;
}

/** A plain condition as an expression. */
export function groupText(group: Group, names: NameHelp[]): string {
	return group.rows.map((r) => rowText(r, names)).join(group.any ? " or " : " and ");
}
