import { describe, expect, it } from "vitest";
import { axisOf, everyLabel, fitting, roundStep } from "./axis";

describe("axes", () => {
	it.each([
		[[], [0, 0.2, 0.4, 0.6, 0.8, 1]],
		[[0], [0, 0.2, 0.4, 0.6, 0.8, 1]],
		[[7], [0, 2, 4, 6, 8]],
		[[-7], [-8, -6, -4, -2, 0]],
		[
			[3, 97],
			[0, 20, 40, 60, 80, 100],
		],
		[
			[-30, 50],
			[-40, -20, 0, 20, 40, 60],
		],
		[[0.03], [0, 0.01, 0.02, 0.03]],
		[
			[1e15, 2e15],
			[0, 5e14, 1e15, 1.5e15, 2e15],
		],
		[
			[Number.NaN, 5],
			[0, 1, 2, 3, 4, 5],
		],
	])("have round marks over %j", (values, marks) => {
		expect(axisOf(values).marks).toEqual(marks);
	});

	it("hold all numbers between their ends, also of many", () => {
		for (let i = 0; i < 300; i++) {
			const values = Array.from({ length: 1 + (i % 7) }, (_, j) => Math.sin(i * 7 + j * 3) * 10 ** (i % 9));
			const a = axisOf(values);
			expect(a.least).toBeLessThanOrEqual(Math.min(0, ...values));
			expect(a.most).toBeGreaterThanOrEqual(Math.max(0, ...values));
			expect(a.marks).toContain(0);
			expect(a.marks.length).toBeLessThanOrEqual(9);
		}
		expect(axisOf(Array.from({ length: 200_000 }, (_, i) => i)).most).toBe(200_000);
	});

	it("need not begin at zero for lines", () => {
		expect(axisOf([100, 104], 5, false).marks).toEqual([100, 101, 102, 103, 104]);
		expect(axisOf([8], 5, false)).toMatchObject({ least: 4, most: 12 });
	});
});

describe("labels", () => {
	it("are left out where there is no room", () => {
		expect(everyLabel(12, 40, 600)).toBe(1);
		expect(everyLabel(1000, 40, 600)).toBe(67);
		expect(everyLabel(1, 40, 0)).toBe(40);
	});
	it("are cut where they are long", () => {
		expect(fitting("Hull", 60)).toBe("Hull");
		expect(fitting("Antifouling below the waterline", 80)).toBe("Antifouling…");
		expect(fitting("x", 0)).toBe("x…");
	});
	it("have steps of round numbers", () => {
		expect([0.13, 1, 1.1, 2.3, 3, 7, 11].map(roundStep)).toEqual([0.2, 1, 2, 2.5, 5, 10, 20]);
	});
});
