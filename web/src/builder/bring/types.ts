import type { AppOut, ColumnPlan, Proposal } from "../api";

/** What columns can become, in words. */
export const types: [string, string][] = [
	["text", "text"],
	["long text", "long text"],
	["number", "a number"],
	["money", "an amount of money"],
	["percentage", "a percentage"],
	["duration", "a duration"],
	["yes/no", "yes or no"],
	["date", "a date"],
	["time stamp", "a date and time"],
	["choice", "a choice"],
	["several choices", "several choices"],
	["e-mail", "an email address"],
	["phone", "a phone number"],
	["web address", "a web address"],
	["auto number", "an automatic number"],
];

/** The name of the table to which a column points. */
export function targetOf(c: ColumnPlan, proposal: Proposal, app: AppOut): string {
	if (!c.link) return "";
	if (c.link.sheet >= 0) return proposal.sheets[c.link.sheet]?.name ?? "";
	return app.tables.find((t) => t.id === c.link?.table)?.name ?? "";
}

/** What a column becomes, in few words. */
export function becomes(c: ColumnPlan, proposal: Proposal, app: AppOut): string {
	if (c.skip) return "left out";
	if (c.link) return `${c.link.many ? "links" : "a link"} to ${targetOf(c, proposal, app)}`;
	if (c.type === "number" && c.format.unit) return `a number in ${c.format.unit}`;
	return types.find(([t]) => t === c.type)?.[1] ?? c.type;
}

/** Whether there is something to look at: something asked, something that does not fit or is added. */
export const unsure = (c: ColumnPlan) =>
	!c.skip && (Boolean(c.ask) || c.bad > 0 || Boolean(c.link && (c.link.missing > 0 || c.link.ambiguous > 0)));

/** A column with an answer to what was asked of it. */
export function answered(c: ColumnPlan, about: string, value: string): ColumnPlan {
	switch (about) {
		case "order":
			return { ...c, format: { ...c.format, order: value as "day" | "month" } };
		case "comma":
			return { ...c, format: { ...c.format, comma: value === "comma" } };
		case "currency":
			return { ...c, format: { ...c.format, currency: value } };
	}
	const answer = c.ask?.answers.find((a) => a.text === value);
	return answer?.link ? { ...c, link: answer.link, type: answer.link.many ? "links" : "link" } : c;
}

/** The answer to what is asked of a column that is taken for now. */
export function answerOf(c: ColumnPlan): string {
	switch (c.ask?.about) {
		case "order":
			return c.format.order ?? "day";
		case "comma":
			return c.format.comma ? "comma" : "point";
		case "currency":
			return c.format.currency ?? "";
	}
	const now = c.link;
	const same = c.ask?.answers.find(
		({ link }) => link && link.sheet === now?.sheet && link.table === now?.table && link.by === now?.by,
	);
	return same?.text ?? "";
}
