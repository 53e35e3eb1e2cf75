import { describe, expect, it } from "vitest";
import { type Column, fieldValue, valueText } from "./values";

const column = (type: string, more: Partial<Column> = {}): Column => ({ id: "f", name: "F", type, ...more });

describe("a value", () => {
	it("is shown as its field would", () => {
		expect(valueText({ f: "12.5" }, column("number"))).toBe(new Intl.NumberFormat().format(12.5));
		expect(valueText({ f: "123456789012345678901.5" }, column("number"))).toBe("123456789012345678901.5");
		expect(valueText({ f: true }, column("yes/no"))).toBe("Yes");
		expect(valueText({ f: false }, column("yes/no"))).toBe("No");
		expect(valueText({ f: null }, column("date"))).toBe("");
		expect(valueText({ f: "2026-03-01" }, column("date"))).toContain("2026");
		expect(valueText({ f: "c" }, column("choice", { choices: [{ id: "c", label: "Hull" }] }))).toBe("Hull");
		expect(valueText({ f: "gone" }, column("choice", { choices: [] }))).toBe("Removed choice");
		expect(valueText({ f: "id", "f~": "Tern" }, column("link"))).toBe("Tern");
		expect(valueText({ f: "id", "f~": null }, column("link"))).toBe("Not visible");
	});

	it("is nothing when the server did not send it", () => {
		expect(fieldValue({}, column("text"))).toBeNull();
	});
});
