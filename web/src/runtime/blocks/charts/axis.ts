/** What an axis goes over, and where its marks are: round numbers, zero among them where bars stand on it. */
export interface Axis {
	least: number;
	most: number;
	marks: number[];
}

/** The axis for some numbers, with some marks at about that distance. Without any it goes from 0 to 1. */
export function axisOf(values: number[], about = 5, zero = true): Axis {
	const all = values.filter(Number.isFinite);
	if (zero || all.length === 0) all.push(0);
	let least = Math.min(...extremes(all));
	let most = Math.max(...extremes(all));
	if (least === most) {
		// one number alone stands in the middle, or on the line of zero
		if (most === 0) most = 1;
		else if (zero) [least, most] = [Math.min(0, least), Math.max(0, most)];
		else [least, most] = [least - Math.abs(least) / 2, most + Math.abs(most) / 2];
	}
	const step = roundStep((most - least) / about);
	const from = Math.floor(least / step + 1e-9);
	const to = Math.ceil(most / step - 1e-9);
	const marks: number[] = [];
	for (let n = from; n <= to; n++) marks.push(Number((n * step).toPrecision(12)));
	return { least: marks[0] ?? 0, most: marks.at(-1) ?? 1, marks };
}

/** The least and the greatest of many, which are too many to be arguments. */
function extremes(all: number[]): [number, number] {
	let least = Number.POSITIVE_INFINITY;
	let most = Number.NEGATIVE_INFINITY;
	for (const v of all) {
		if (v < least) least = v;
		if (v > most) most = v;
	}
	return [least, most];
}

/** The next of 1, 2, 2.5, 5, 10, 20 … that is not less. */
export function roundStep(step: number): number {
	const power = 10 ** Math.floor(Math.log10(step));
	for (const n of [1, 2, 2.5, 5]) if (step <= n * power * (1 + 1e-9)) return n * power;
	return 10 * power;
}

/** Every how many labels are shown of so many, each so wide, where there is so much room. */
export function everyLabel(count: number, wide: number, room: number): number {
	return Math.max(1, Math.ceil((count * wide) / Math.max(room, 1)));
}

/** How wide a text is, about. */
export const textWidth = (text: string) => text.length * 6.6;

/** A text that fits into so much room, cut where it does not. */
export function fitting(text: string, room: number): string {
	if (textWidth(text) <= room) return text;
	return `${text.slice(0, Math.max(1, Math.floor(room / 6.6) - 1)).trimEnd()}…`;
}
