import { describe, expect, it } from "vitest";
import type { Slot } from "./api";
import { fill, shows } from "./settings";

const slot = (name: string, when?: Slot["when"]): Slot => ({ name, label: name, control: "text", value: "", when });

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
