import { describe, expect, it } from "vitest";
import { type Box, draw, type MapTable } from "./layout";

const table = (id: string, ...targets: string[]): MapTable => ({
	id,
	name: id,
	others: 4,
	links: targets.map((target, i) => ({ id: `${id}-${target}-${i}`, name: target, target, many: false })),
});

const overlap = (a: Box, b: Box) =>
	a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

function touching(boxes: Box[]): string[] {
	return boxes.flatMap((a, i) =>
		boxes.slice(i + 1).flatMap((b) => (overlap(a, b) ? [`${a.table.id} ${b.table.id}`] : [])),
	);
}

/** Thirty tables that link to others at random, the same each time. */
function many(): MapTable[] {
	let seed = 7;
	const next = (n: number) => {
		seed = (seed * 1103515245 + 12345) % 2147483648;
		return seed % n;
	};
	return Array.from({ length: 30 }, (_, i) => table(`t${i}`, ...Array.from({ length: next(4) }, () => `t${next(30)}`)));
}

describe("the map", () => {
	it("puts what is pointed to on the left", () => {
		const { boxes } = draw([table("order", "boat"), table("boat", "owner"), table("owner")]);
		const x = (id: string) => boxes.find((b) => b.table.id === id)?.x ?? 0;
		expect(x("owner")).toBeLessThan(x("boat"));
		expect(x("boat")).toBeLessThan(x("order"));
	});
	it("draws every link, also those in circles and to oneself", () => {
		const { ways, boxes } = draw([table("a", "b", "a"), table("b", "c"), table("c", "a"), table("alone")]);
		expect(ways.map((w) => `${w.from}>${w.to}`).sort()).toEqual(["a>a", "a>b", "b>c", "c>a"]);
		expect(ways.every((w) => !/NaN|undefined/.test(w.path))).toBe(true);
		expect(touching(boxes)).toEqual([]);
	});
	it("keeps thirty tables apart and on the drawing", () => {
		const d = draw(many());
		expect(d.boxes).toHaveLength(30);
		expect(touching(d.boxes)).toEqual([]);
		for (const b of d.boxes) {
			expect(b.x).toBeGreaterThanOrEqual(0);
			expect(b.y).toBeGreaterThanOrEqual(0);
			expect(b.x + b.width).toBeLessThanOrEqual(d.width);
			expect(b.y + b.height).toBeLessThanOrEqual(d.height);
		}
	});
	it("draws nothing of nothing", () => {
		expect(draw([]).boxes).toEqual([]);
	});
});
