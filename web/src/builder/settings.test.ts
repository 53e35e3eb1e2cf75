import { describe, expect, it } from "vitest";
import type { Slot } from "./api";
import { droppedAt, fill, shows } from "./settings";

const slot = (name: string, when?: Slot["when"]): Slot => ({ name, label: name, control: "text", value: "", when });

describe("dropping", () => {
	it("counts the place without what was taken away", () => {
		expect([droppedAt(0, 2, false), droppedAt(0, 2, true), droppedAt(3, 1, false), droppedAt(3, 1, true)]).toEqual([
			1, 2, 1, 2,
		]);
		expect([droppedAt(1, 1, false), droppedAt(1, 1, true), droppedAt(1, 0, true), droppedAt(1, 2, false)]).toEqual([
			1, 1, 1, 1,
		]);
	});
});

describe("a setting", () => {
	it("puts each value at its path and keeps what else the change says", () => {
		const change = { kind: "SetBlock", page: "p", patch: null };
		const slots = [slot("patch.list.sort"), slot("patch.list.falling")];
		expect(fill(change, slots, { "patch.list.sort": "name", "patch.list.falling": true })).toEqual({
			kind: "SetBlock",
			page: "p",
			patch: { list: { sort: "name", falling: true } },
		});
		expect(change.patch).toBeNull();
	});

	it("leaves out what is not shown", () => {
		const slots = [slot("extent"), slot("condition", { slot: "extent", is: "where" })];
		const values = { extent: "all", condition: "owner = me" };
		expect(fill({ kind: "SetPermission" }, slots, values)).toEqual({ kind: "SetPermission", extent: "all" });
	});

	it("shows a slot while another has one of the values", () => {
		const s = slot("text", { slot: "block", is: "heading|text|button" });
		expect(shows(s, { block: "text" })).toBe(true);
		expect(shows(s, { block: "list" })).toBe(false);
	});
});
