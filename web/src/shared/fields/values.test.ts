import { describe, expect, it } from "vitest";
import { type Column, editText, enteredValue, fieldValue, sentValue, valueText } from "./values";

const column = (type: string, kind = type, more: Partial<Column> = {}): Column => ({
	id: "f",
	table: "t",
	name: "F",
	type,
	kind,
	entered: true,
	...more,
});

describe("a value", () => {
	it("is shown as its field would", () => {
		expect(valueText({ f: "12.5" }, column("number"))).toBe(new Intl.NumberFormat().format(12.5));
		expect(valueText({ f: "123456789012345678901.5" }, column("number"))).toBe("123456789012345678901.5");
		expect(valueText({ f: "7" }, column("number", "number", { decimals: 2, unit: "m" }))).toBe("7.00 m");
		expect(valueText({ f: "12" }, column("money", "number", { currency: "EUR" }))).toContain("12.00");
		expect(valueText({ f: "0.2" }, column("percentage", "number"))).toBe("20%");
		expect(valueText({ f: "7.5" }, column("duration", "number"))).toBe("7:30");
		expect(valueText({ f: true }, column("yes/no"))).toBe("Yes");
		expect(valueText({ f: false }, column("yes/no"))).toBe("No");
		expect(valueText({ f: null }, column("date"))).toBe("");
		expect(valueText({ f: "2026-03-01" }, column("date"))).toContain("2026");
		const choices = [{ id: "c", label: "Hull" }];
		expect(valueText({ f: "c" }, column("choice", "choice", { choices }))).toBe("Hull");
		expect(valueText({ f: ["c", "gone"] }, column("several choices", "choice", { choices, many: true }))).toBe(
			"Hull, Removed choice",
		);
		expect(valueText({ f: "id", "f~": "Tern" }, column("link", "record"))).toBe("Tern");
		expect(valueText({ f: "id", "f~": null }, column("link", "record"))).toBe("Hidden");
		const linked = { f: [{ id: "1", label: "Tern" }], "f~": 3 };
		expect(valueText(linked, column("links", "record", { many: true }))).toBe("Tern and 2 more");
	});

	it("is edited in a text that can be read back", () => {
		expect(editText({ f: "0.075" }, column("percentage", "number"))).toBe("7.5%");
		expect(enteredValue("7.5", column("percentage", "number"))).toBe("7.5%");
		expect(editText({ f: "1.25" }, column("duration", "number"))).toBe("1:15");
		const stamp = column("time stamp");
		expect(enteredValue(editText({ f: "2026-03-01T10:30:00Z" }, stamp), stamp)).toBe("2026-03-01T10:30:00Z");
		expect(enteredValue("  ", column("text"))).toBeNull();
	});

	it("is sent as it is, and of several links only what is other than before", () => {
		expect(sentValue({ f: "a" }, column("text"), "b")).toBe("b");
		expect(sentValue({ f: ["a"] }, column("several choices", "choice"), ["b"])).toEqual(["b"]);
		const row = {
			f: [
				{ id: "1", label: "Tern" },
				{ id: "2", label: "Teal" },
			],
			"f~": 42,
		};
		const links = column("links", "record", { many: true });
		expect(sentValue(row, links, ["1", "2"])).toEqual({ added: [], removed: [] });
		expect(sentValue(row, links, ["2", "3"])).toEqual({ added: ["3"], removed: ["1"] });
		expect(sentValue(row, links, null)).toEqual({ added: [], removed: ["1", "2"] });
		expect(sentValue({}, links, ["1"])).toEqual({ added: ["1"], removed: [] });
	});

	it("is nothing when the server did not send it", () => {
		expect(fieldValue({}, column("text"))).toBeNull();
	});
});
