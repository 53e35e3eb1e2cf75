import Papa from "papaparse";
import { type Column, editText, type Row } from "../../shared/fields/values";

/** A range of cells, both ends counted in. */
export interface Range {
	top: number;
	bottom: number;
	left: number;
	right: number;
}

export interface Cell {
	row: number;
	column: number;
}

export function rangeOf(a: Cell, b: Cell): Range {
	return {
		top: Math.min(a.row, b.row),
		bottom: Math.max(a.row, b.row),
		left: Math.min(a.column, b.column),
		right: Math.max(a.column, b.column),
	};
}

export const inRange = (r: Range, row: number, column: number) =>
	row >= r.top && row <= r.bottom && column >= r.left && column <= r.right;

/** The cells of a range as the tab-separated text that spreadsheets take. */
export function copied(rows: Row[], columns: Column[], r: Range): string {
	const cells = rows
		.slice(r.top, r.bottom + 1)
		.map((row) => columns.slice(r.left, r.right + 1).map((c) => editText(row, c)));
	return Papa.unparse(cells, { delimiter: "\t", newline: "\n" });
}

/** The cells of a tab-separated text. */
export function pasted(text: string): string[][] {
	const { data } = Papa.parse<string[]>(text.replace(/\r?\n$/, ""), { delimiter: "\t" });
	return data;
}

/** What a paste writes: for each row the texts by the ids of fields. One cell fills the whole range. */
export function fillRange(cells: string[][], columns: Column[], r: Range, rowCount: number) {
	const single = cells.length === 1 && cells[0]?.length === 1;
	const height = single ? r.bottom - r.top + 1 : Math.min(cells.length, rowCount - r.top);
	const width = single ? r.right - r.left + 1 : Math.max(0, ...cells.map((c) => c.length));
	const out: { row: number; texts: Record<string, string> }[] = [];
	for (let i = 0; i < height; i++) {
		const texts: Record<string, string> = {};
		for (let j = 0; j < width; j++) {
			const column = columns[r.left + j];
			const text = single ? cells[0]?.[0] : cells[i]?.[j];
			if (column?.entered && text !== undefined) texts[column.id] = text;
		}
		if (Object.keys(texts).length) out.push({ row: r.top + i, texts });
	}
	return { edits: out, left: single ? 0 : Math.max(0, cells.length - height) };
}
