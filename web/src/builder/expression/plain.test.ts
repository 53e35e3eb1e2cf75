import { describe, expect, it } from "vitest";
import { groupText, relationsFor } from "./plain";

const names = [
	{ name: "length", help: "", kind: "number" },
	{ name: "owner", help: "", kind: "record" },
	{ name: "name", help: "", kind: "text" },
];

describe("a plain condition", () => {
	it("is written as an expression", () => {
		expect(
			groupText(
				{
					any: false,
					rows: [
						{ field: "length", relation: ">", value: "12" },
						{ field: "owner", relation: "me" },
						{
							group: {
								any: true,
								rows: [
									{ field: "name", relation: "contains", value: 'a "b"' },
									{ field: "name", relation: "empty" },
								],
							},
						},
					],
				},
				names,
			),
		).toBe('length > 12 and owner = me and (CONTAINS(name, "a ""b""") or ISBLANK(name))');
	});

	it("offers only what a kind of value can be compared by", () => {
		expect(relationsFor("yes/no").map((r) => r.value)).toEqual(["yes", "no"]);
		expect(relationsFor("choice").map((r) => r.value)).not.toContain("<");
	});
});
