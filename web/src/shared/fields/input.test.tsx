import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { show } from "../../testing";
import { type InputProps, ValueInput } from "./input";
import type { Column, Value } from "./values";

const column = (type: string, more: Partial<Column> = {}): Column =>
	({ id: "f", table: "t", name: "The field", type, kind: "text", entered: true, ...more }) as Column;

function input(type: string, value: Value, more: Partial<InputProps> = {}, of: Partial<Column> = {}) {
	const changed = vi.fn();
	const view = show(
		<>
			<label htmlFor="x">The field</label>
			<ValueInput id="x" column={column(type, of)} value={value} onChange={changed} {...more} />
		</>,
	);
	return { ...view, changed };
}

const choices = [
	{ id: "a", label: "Hull" },
	{ id: "b", label: "Engine" },
	{ id: "c", label: "Sails", retired: true },
];

describe("controls of fields", () => {
	it.each(["text", "long text", "number", "money", "duration", "e-mail", "phone", "web address"])(
		"%s is typed, and empty is nothing",
		async (type) => {
			const { person, changed } = input(type, null);
			await person.type(screen.getByLabelText("The field"), "7");
			expect(changed).toHaveBeenLastCalledWith("7");
			const again = input(type, "7");
			await again.person.clear(screen.getAllByLabelText("The field")[1] as HTMLElement);
			expect(again.changed).toHaveBeenLastCalledWith(null);
		},
	);

	it("a percentage keeps its sign", async () => {
		const { person, changed } = input("percentage", "0.125");
		const field = screen.getByLabelText("The field") as HTMLInputElement;
		expect(field.value).toBe("12.5%");
		await person.clear(field);
		await person.type(field, "20");
		expect(changed).toHaveBeenLastCalledWith("20%");
	});

	it("yes or no can be neither", async () => {
		const { person, changed } = input("yes/no", true);
		await person.selectOptions(screen.getByLabelText("The field"), "No");
		expect(changed).toHaveBeenLastCalledWith(false);
		await person.selectOptions(screen.getByLabelText("The field"), "");
		expect(changed).toHaveBeenLastCalledWith(null);
	});

	it("a choice offers what is not retired, and what it has", () => {
		input("choice", "c", {}, { choices } as Partial<Column>);
		expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual(["", "Hull", "Engine", "Sails"]);
		input("choice", "gone", {}, { choices } as Partial<Column>);
		expect(screen.getByText("Removed choice")).toBeTruthy();
	});

	it("several choices are a group with its name", async () => {
		const { person, changed } = input("several choices", ["a"], {}, { choices } as Partial<Column>);
		expect(screen.getByRole("group", { name: "The field" })).toBeTruthy();
		await person.click(screen.getByLabelText("Engine"));
		expect(changed).toHaveBeenLastCalledWith(["a", "b"]);
		await person.click(screen.getByLabelText("Hull"));
		expect(changed).toHaveBeenLastCalledWith(null);
	});

	it("says that it is wrong, and why", () => {
		input("text", null, { invalid: true, describedBy: "note" });
		const field = screen.getByLabelText("The field");
		expect(field.getAttribute("aria-invalid")).toBe("true");
		expect(field.getAttribute("aria-describedby")).toBe("note");
	});

	it("a link that one cannot see is hidden, and stays", () => {
		input("link", "secret", { options: [{ id: "b1", label: "Tern" }] });
		expect(screen.getByText("Hidden")).toBeTruthy();
		expect((screen.getByLabelText("The field") as HTMLSelectElement).value).toBe("secret");
	});
});

describe("searching for a link", () => {
	const all = ["Tern", "Teal", "Grey Heron"].map((label) => ({ id: label, label }));
	const search = vi.fn(async (words: string) => all.filter((o) => o.label.toLowerCase().includes(words.toLowerCase())));

	it("is a combobox: arrows walk, Enter takes", async () => {
		const { person, changed } = input("link", null, { search });
		const box = screen.getByRole("combobox", { name: "The field" });
		await person.click(box);
		expect(box.getAttribute("aria-expanded")).toBe("true");
		await person.type(box, "te");
		await waitFor(() => expect(screen.getAllByRole("option")).toHaveLength(2));
		await person.keyboard("{ArrowDown}{ArrowDown}");
		const at = box.getAttribute("aria-activedescendant") ?? "";
		expect(document.getElementById(at)?.textContent).toBe("Teal");
		await person.keyboard("{ArrowDown}{Enter}");
		expect(changed).toHaveBeenCalledWith("Tern");
		expect(box.getAttribute("aria-expanded")).toBe("false");
	});

	it("takes what is clicked, and says that nothing matches", async () => {
		const { person, changed } = input("link", null, { search });
		await person.click(screen.getByRole("combobox"));
		await person.click(await screen.findByText("Grey Heron"));
		expect(changed).toHaveBeenCalledWith("Grey Heron");
		await person.type(screen.getByRole("combobox"), "zzz");
		expect(await screen.findByText("No matches.")).toBeTruthy();
	});

	it("adds a record of a name that is not there", async () => {
		const onNew = vi.fn(async (name: string) => ({ id: "new", label: name }));
		const { person, changed } = input("link", null, { search, onNew });
		await person.type(screen.getByRole("combobox"), "Curlew");
		await person.keyboard("{ArrowDown}{Enter}");
		await waitFor(() => expect(changed).toHaveBeenCalledWith("new"));
		expect(onNew).toHaveBeenCalledWith("Curlew");
	});

	it("clears, and adds to several", async () => {
		const one = input("link", "Tern", { search, label: "Tern" });
		await one.person.click(screen.getByRole("button", { name: "Clear" }));
		expect(one.changed).toHaveBeenCalledWith(null);
		one.unmount();
		const several = input("links", ["Tern"], { search, linked: { records: all.slice(0, 1), count: 18 } });
		expect(screen.getByText("and 17 more, which stay linked")).toBeTruthy();
		await several.person.click(screen.getByRole("combobox"));
		await several.person.click(await screen.findByRole("option", { name: "Teal" }));
		expect(several.changed).toHaveBeenLastCalledWith(["Tern", "Teal"]);
		await several.person.click(screen.getByRole("button", { name: "Remove Tern" }));
		expect(several.changed).toHaveBeenLastCalledWith([]);
	});
});
