import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { Holding, show } from "../../testing";
import type { Group, NameHelp } from "../api";
import { Conditions } from "./Conditions";

const names: NameHelp[] = [
	{ name: "name", help: "Name, text", label: "Name", kind: "text" },
	{ name: "length", help: "Length, a number", label: "Length", kind: "number" },
	{ name: "kind", help: "Kind, a choice", label: "Kind", kind: "choice", choices: ["Yacht", "Dinghy"] },
	{ name: "sold", help: "Sold, yes or no", label: "Sold", kind: "yes/no" },
	{ name: "day", help: "Day, a date", label: "Day", kind: "date" },
	{ name: "crew", help: "Crew, a list", label: "Crew", kind: "list" },
	{ name: "photo", help: "Photo, a file", label: "Photo", kind: "file" },
	{ name: "me.name", help: "Name", label: "Name", kind: "text" },
	{ name: "owner.name", help: "Name, text", label: "Name", kind: "text" },
] as NameHelp[];

function condition(value: Group) {
	const latest = { value };
	const shown = show(
		<Holding latest={latest}>
			{(group, change) => <Conditions group={group} names={names} onChange={change} />}
		</Holding>,
	);
	return { ...shown, latest };
}

const row = (field: string, relation: string, value = "") => ({ field, relation, value });

describe("a condition in words", () => {
	it("begins with nothing, and adds a comparison", async () => {
		const { person, latest } = condition({ any: false, rows: [] });
		expect(screen.queryByRole("button", { name: "Add a group" })).toBeNull();
		await person.click(screen.getByRole("button", { name: "Add a comparison" }));
		expect(latest.value.rows).toHaveLength(1);
		expect(latest.value.rows[0]?.field).toBe("name");
	});

	it("offers fields that can be compared, and those behind a link", () => {
		condition({ any: false, rows: [row("name", "=")] });
		const offered = within(screen.getByLabelText("Field"))
			.getAllByRole("option")
			.map((o) => o.textContent);
		expect(offered).toEqual(["Name", "Length", "Kind", "Sold", "Day", "Name in owner"]);
	});

	it("offers what fits a field, and forgets the value of another", async () => {
		const { person, latest } = condition({ any: false, rows: [row("name", "=", "Tern")] });
		await person.selectOptions(screen.getByLabelText("Field"), "Kind");
		expect(latest.value.rows[0]).toMatchObject({ field: "kind", value: "" });
		await person.selectOptions(screen.getByLabelText("Value"), "Yacht");
		expect(latest.value.rows[0]?.value).toBe("Yacht");
		await person.selectOptions(screen.getByLabelText("Field"), "Day");
		expect((screen.getByLabelText("Value") as HTMLInputElement).type).toBe("date");
	});

	it("asks for no value where none is needed", async () => {
		const { person, latest } = condition({ any: false, rows: [row("name", "=", "Tern")] });
		const comparison = screen.getByLabelText("Comparison");
		const empty = within(comparison)
			.getAllByRole("option")
			.find((o) => /empty/.test(o.textContent ?? "")) as HTMLOptionElement;
		await person.selectOptions(comparison, empty);
		expect(screen.queryByLabelText("Value")).toBeNull();
		expect(latest.value.rows[0]?.relation).toBe(empty.value);
	});

	it("says how comparisons combine once there are two", async () => {
		const { person, latest } = condition({ any: false, rows: [row("name", "=", "Tern")] });
		expect(screen.queryByLabelText("How they combine")).toBeNull();
		await person.click(screen.getByRole("button", { name: "Add a comparison" }));
		await person.selectOptions(screen.getByLabelText("How they combine"), "At least one of these is true");
		expect(latest.value.any).toBe(true);
	});

	it("holds a group, which combines the other way, and no group in it", async () => {
		const { person, latest } = condition({ any: false, rows: [row("name", "=", "Tern")] });
		await person.click(screen.getByRole("button", { name: "Add a group" }));
		expect(latest.value.rows[1]?.group).toMatchObject({ any: true });
		expect(latest.value.rows[1]?.group?.rows).toHaveLength(2);
		expect(screen.getAllByRole("button", { name: "Add a group" })).toHaveLength(1);
		const inner = screen.getAllByRole("group").at(-1) as HTMLElement;
		await person.type(within(inner).getAllByLabelText("Value")[0] as HTMLElement, "Auk");
		expect(latest.value.rows[1]?.group?.rows[0]?.value).toBe("Auk");
	});

	it("takes a comparison away, and leaves the others", async () => {
		const { person, latest } = condition({ any: false, rows: [row("name", "=", "Tern"), row("length", ">", "7")] });
		await person.click(screen.getAllByRole("button", { name: "Remove this comparison" })[0] as HTMLElement);
		expect(latest.value.rows).toEqual([row("length", ">", "7")]);
	});
});
