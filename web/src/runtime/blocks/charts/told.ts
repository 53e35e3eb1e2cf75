import { dateText, numberText, type Row, valueText } from "../../../shared/fields/values";
import { region } from "../../../shared/region";
import type { BlockOf } from "../../place";

export type ChartBlock = BlockOf<"chart">;
export type Days = ChartBlock["days"];
export type Measure = ChartBlock["measures"][number];
type Group = ChartBlock["groups"][number];

/** A number as its measure writes it; a dash for what is empty. */
export function written(value: string | null | undefined, measure: Measure): string {
	return value === null || value === undefined ? "–" : numberText(value, measure.column);
}

const parts = (iso: string, style: Intl.DateTimeFormatOptions) =>
	new Date(`${iso}T00:00:00Z`).toLocaleDateString(region(), { ...style, timeZone: "UTC" });

/** The name of a group: a day, a week, a month, what a choice is called; whole, or as short as it stands on an axis. */
export function groupName(block: ChartBlock, g: Group, short = false): string {
	if (g.others || !g.key) return g.label;
	const year = g.key.slice(0, 4);
	switch (block.unit) {
		case "day":
			return short ? parts(g.key, { day: "numeric", month: "short" }) : dateText(g.key);
		case "week":
			return short ? parts(g.key, { day: "numeric", month: "short" }) : `Week of ${dateText(g.key)}`;
		case "month":
			return parts(g.key, short ? { month: "short", year: "2-digit" } : { month: "long", year: "numeric" });
		case "quarter":
			return `Q${(Number(g.key.slice(5, 7)) + 2) / 3} ${year}`;
		case "year":
			return year;
	}
	if (block.by.kind === "number") {
		const from = valueText({ [block.by.id]: g.key } as Row, block.by);
		if (!block.step) return from;
		const next = String(Number((Number(g.key) + Number(block.step)).toPrecision(12)));
		return `${from} – under ${valueText({ [block.by.id]: next } as Row, block.by)}`;
	}
	return g.label;
}

/** The days over which something goes, in words. */
export function daysText(days: { from: string; to: string }): string {
	if (days.from && days.to)
		return days.from === days.to ? dateText(days.from) : `${dateText(days.from)} – ${dateText(days.to)}`;
	if (days.from) return `from ${dateText(days.from)}`;
	return days.to ? `to ${dateText(days.to)}` : "all the time";
}

/** What is drawn: a measure, or a part of one, with its name and colour. */
export interface Drawn {
	id: string;
	name: string;
	measure: Measure;
	colour: string;
	values: (number | null)[];
	texts: (string | null)[];
	before?: (string | null)[];
	goal?: (string | null)[];
	line: boolean;
}

/** The colours of series and of the parts of a ring: that of the app first. */
export const colourAt = (i: number) => `var(--series-${(i % 8) + 1})`;

export function drawnOf(block: ChartBlock): Drawn[] {
	return block.series.flatMap((s, i) => {
		const measure = block.measures.find((m) => m.id === s.measure);
		if (!measure) return [];
		return [
			{
				id: `${s.measure} ${s.part ? s.part.key + s.part.label : ""}`,
				name: s.part ? s.part.label : measure.name,
				measure,
				colour: s.part?.colour || colourAt(i),
				values: s.values.map((v) => (v === null ? null : Number(v))),
				texts: s.values,
				before: s.before,
				goal: s.goal?.some((g) => g !== null) ? s.goal : undefined,
				line: Boolean(measure.line) || block.shape === "lines" || block.shape === "areas",
			},
		];
	});
}

/** What stands for a series: its own, and where it has them what was before and what is aimed at. */
export function beside<T>(d: Drawn, own: T, before: T, goal: T): T[] {
	return [own, ...(d.before ? [before] : []), ...(d.goal ? [goal] : [])];
}

/** The chart as a file for spreadsheets, RFC 4180. What would be a formula there stands as a text. */
export function csvOf(block: ChartBlock): string {
	const text = (s: string) => `"${(/^[=+\-@\t\r]/.test(s) ? `'${s}` : s).replaceAll('"', '""')}"`;
	const drawn = drawnOf(block);
	const head = [block.by.name, ...drawn.flatMap((d) => beside(d, d.name, `${d.name}, before`, `${d.name}, target`))];
	const rows = block.groups.map((g, i) => [
		text(groupName(block, g)),
		...drawn.flatMap((d) => beside(d, d.texts[i] ?? "", d.before?.[i] ?? "", d.goal?.[i] ?? "")),
	]);
	return [head.map(text), ...rows].map((r) => r.join(",")).join("\r\n");
}

/** How far a number is towards its target, and whether that is reached; nothing where there is none to compare. */
export function towards(
	value: string | null | undefined,
	goal: Measure["goal"],
): { part: number; met: boolean } | null {
	if (!goal?.at || value === null || value === undefined) return null;
	const [v, at] = [Number(value), Number(goal.at)];
	const met = goal.kind === "least" ? v >= at : goal.kind === "most" ? v <= at : v >= at && v <= Number(goal.to);
	return { part: at === 0 ? (met ? 1 : 0) : v / at, met };
}
