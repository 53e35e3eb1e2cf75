import { describe, expect, it } from "vitest";
import { listed, say } from "./words";

describe("say", () => {
	it("fills in names, and leaves what it does not know", () => {
		expect(say("{by} removed {thing}", { by: "Marta" })).toBe("Marta removed {thing}");
		expect(say("{a}", { a: "{b}", b: "x" })).toBe("{b}");
	});
	it.each([
		["{n} role||{n} roles", 0, "0 roles"],
		["{n} role||{n} roles", 1, "1 role"],
		["{n} role||{n} roles", 12000, "12,000 roles"],
		["no roles||{n} role||{n} roles", 0, "no roles"],
		["no roles||{n} role||{n} roles", 1, "1 role"],
		["no roles||{n} role||{n} roles", 5, "5 roles"],
		["all of it", 5, "all of it"],
	])("chooses a variant of %s for %s", (text, n, want) => {
		expect(say(text, { n })).toBe(want);
	});
	it("joins lists", () => {
		expect(say("Hidden: {fields}", { fields: ["A", "B", "C"] })).toBe("Hidden: A, B and C");
		expect(listed(["A", "B"])).toBe("A and B");
		expect(listed([])).toBe("");
	});
});
