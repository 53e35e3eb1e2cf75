import { describe, expect, it } from "vitest";
import type { Setting, Slot } from "../api";
import { changed, changeOf, droppedAt } from "./values";

const slot = (name: string, value: unknown): Slot => ({ name, label: name, control: "text", value });

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
	const slots = [slot("sort", "name"), slot("falling", false), slot("columns", ["a"])];

	it("sends what differs from what was there", () => {
		expect(changed(slots, {}, slots)).toEqual({});
		expect(changed(slots, { sort: "name", falling: true }, slots)).toEqual({ falling: true });
		expect(changed(slots, { columns: [] }, slots)).toEqual({ columns: [] });
		expect(changed(slots, { sort: "" }, slots)).toEqual({ sort: "" });
	});

	it("takes nothing for nothing, however it is written", () => {
		const before = [slot("a", null), slot("b", ""), slot("c", [])];
		expect(changed(before, { a: "", b: null, c: undefined }, before)).toEqual({});
	});

	it("sends what other slots came to hold while it was open", () => {
		expect(changed([slot("type", "money"), slot("currency", "EUR")], {}, [slot("type", "number")])).toEqual({
			type: "money",
			currency: "EUR",
		});
	});

	it("sets a thing, or adds one with what was entered", () => {
		const set: Setting = { title: "", of: "list", slots };
		expect(changeOf(set, { falling: true }, slots)).toEqual({ kind: "set", of: "list", values: { falling: true } });
		const add: Setting = {
			title: "",
			add: { what: "block", into: "p" },
			slots: [slot("kind", "text"), slot("text", "")],
		};
		expect(changeOf(add, { text: "" }, [], 2)).toEqual({
			kind: "add",
			what: "block",
			into: "p",
			at: 2,
			values: { kind: "text" },
		});
	});
});
