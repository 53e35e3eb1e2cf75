import { describe, expect, it } from "vitest";
import type { Records } from "../../place";
import { lookOf } from "./look";

const kind = {
	id: "kind",
	choices: [
		{ id: "k1", label: "Dinghy", colour: "#2b7a4b" },
		{ id: "k2", label: "Yacht" },
	],
};
const list = (with_: object) => ({ columns: [], fields: [kind], tint: "kind", ...with_ }) as unknown as Records;

describe("how a record stands out", () => {
	it("is by the first tone that fits, or else in the colour of its choice", () => {
		const toned = list({ tones: { r1: "danger" } });
		expect(lookOf(toned, { id: "r1", kind: "k1" })).toEqual({ "data-tone": "danger" });
		expect(lookOf(toned, { id: "r2", kind: "k1" })).toEqual({ "data-tone": "own", style: { "--tone": "#2b7a4b" } });
	});

	it("is as others do where the choice has no colour, there is none, or it is not shown", () => {
		for (const row of [{ id: "r1", kind: "k2" }, { id: "r1", kind: null }, { id: "r1" }])
			expect(lookOf(list({}), row)).toEqual({});
		expect(lookOf(list({ fields: [] }), { id: "r1", kind: "k1" })).toEqual({});
		expect(lookOf(list({ board: { field: "kind" } }), { id: "r1", kind: "k1" })).toEqual({});
		expect(lookOf(list({ tint: undefined }), { id: "r1", kind: "k1" })).toEqual({});
	});
});
