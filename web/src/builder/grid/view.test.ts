import { describe, expect, it } from "vitest";
import type { FieldOut } from "../api";
import { arrange, askedSort, fitting, plain, sortsOf, sortText } from "./view";

const field = (id: string): FieldOut => ({
	id,
	table: "t",
	name: id,
	type: "text",
	kind: "text",
	entered: true,
	key: id,
	required: false,
});
const fields = ["a", "b", "c"].map(field);

describe("views", () => {
	it("reads the sorting that it writes", () => {
		for (const text of ["", "a", "-a", "a.x,-b"]) expect(sortText(sortsOf(text))).toBe(text);
	});
	it("drops what is about fields that are gone", () => {
		const s = { ...plain, sort: "a,-gone,b.column", group: "gone", order: ["gone", "c"] };
		expect(fitting(s, fields)).toMatchObject({ sort: "a,b.column", group: "" });
		expect(arrange(fields, s).map((f) => f.id)).toEqual(["c", "a", "b"]);
	});
	it("asks for groups that stand together", () => {
		expect(askedSort({ ...plain, sort: "a,-b" })).toBe("a,-b");
		expect(askedSort({ ...plain, sort: "a,-b", group: "c" })).toBe("c,a,-b");
		expect(askedSort({ ...plain, sort: "a,-b", group: "b" })).toBe("-b,a");
	});
});
