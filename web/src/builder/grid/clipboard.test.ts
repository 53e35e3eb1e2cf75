import { describe, expect, it } from "vitest";
import type { Column } from "../../shared/fields/values";
import { copied, fillRange, pasted, rangeOf } from "./clipboard";

const column = (id: string, kind = "text", entered = true): Column => ({
	id,
	table: "t",
	name: id,
	type: kind,
	kind,
	entered,
});
const columns = [column("a"), column("b", "number"), column("sum", "number", false)];

describe("copying and pasting", () => {
	it("writes what it can read again", () => {
		const rows = [
			{ a: "one", b: "1" },
			{ a: 'two\t"2"\nlines', b: null },
		];
		const text = copied(rows, columns, rangeOf({ row: 1, column: 1 }, { row: 0, column: 0 }));
		expect(pasted(text)).toEqual([
			["one", "1"],
			['two\t"2"\nlines', ""],
		]);
	});

	it("leaves out what fills itself in, and what is past the last row", () => {
		const at = rangeOf({ row: 1, column: 1 }, { row: 1, column: 1 });
		expect(fillRange([["5", "9"], ["6"], ["7"]], columns, at, 3)).toEqual({
			edits: [
				{ row: 1, texts: { b: "5" } },
				{ row: 2, texts: { b: "6" } },
			],
			left: 1,
		});
	});

	it("fills a whole range with one cell", () => {
		const at = rangeOf({ row: 0, column: 0 }, { row: 1, column: 1 });
		expect(fillRange([["x"]], columns, at, 5).edits).toEqual([
			{ row: 0, texts: { a: "x", b: "x" } },
			{ row: 1, texts: { a: "x", b: "x" } },
		]);
	});
});
