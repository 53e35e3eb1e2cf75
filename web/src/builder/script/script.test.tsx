import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { answering, Refusal, show } from "../../testing";
import type { Line, Setting } from "../api";
import { Ordered } from "./Ordered";
import { Script } from "./Script";
import { SettingForm } from "./SettingForm";
import { SlotInput } from "./Slots";

const line = (id: string, words: string, more: Partial<Line> = {}): Line => ({
	id,
	kind: "line",
	of: id,
	parts: [{ text: words, set: "name" }, { text: " is " }, { text: "text", set: "type" }, { text: "." }],
	...more,
});

const boats: Line = {
	id: "boat",
	kind: "heading",
	of: "boat",
	parts: [{ text: "Boats", set: "name" }],
	lines: [
		line("name", "Name", { more: true, group: "field in boat", at: 0, among: 2, removes: true }),
		line("length", "Length", { group: "field in boat", at: 1, among: 2, removes: true }),
		{ id: "boat.add", kind: "offer", parts: [{ text: "Add a field" }], add: { what: "field", into: "boat" } },
	],
};
const crew: Line = { id: "crew", kind: "heading", of: "crew", parts: [{ text: "Crew", set: "name" }], folded: true };
const lists: Line = { id: "lists", kind: "note", parts: [{ text: "Choice lists" }] };

const setting = (more: Partial<Setting> = {}): Setting => ({
	title: "Name: Name in Boats",
	of: "name",
	slots: [{ name: "name", label: "Name", control: "text", value: "Name" }],
	...more,
});

type Person = ReturnType<typeof show>["person"];

function script(props: Partial<Parameters<typeof Script>[0]> = {}) {
	const asked = { onOpen: vi.fn(), onMark: vi.fn(), onAdded: vi.fn() };
	const view = show(<Script app="a1" stop="data" open="boat" still={false} marked="" {...asked} {...props} />);
	return { ...view, ...asked };
}

const read = {
	"GET /script/data": { lines: [boats, lists, crew] },
	"GET /counts": { counts: { boat: 1, crew: 10001 }, most: 10000 },
};

describe("the script", () => {
	it("tells the open group, and folds the others with how many records they have", async () => {
		answering(read);
		const { onOpen, person } = script();
		expect(await screen.findByText("Length")).toBeTruthy();
		expect(await screen.findByTitle("1 record")).toBeTruthy();
		expect(screen.getByText("10,000+")).toBeTruthy();
		expect(screen.getByText("Choice lists")).toBeTruthy();
		await person.click(screen.getByLabelText("Open Crew"));
		expect(onOpen).toHaveBeenCalledWith("crew");
		await person.click(screen.getByLabelText("Close Boats"));
		expect(onOpen).toHaveBeenCalledWith("");
	});

	it("offers nothing to those who only read", async () => {
		answering(read);
		script({ still: true });
		expect(await screen.findByText("Length")).toBeTruthy();
		expect(screen.queryByText("Add a field")).toBeNull();
		expect(screen.queryAllByRole("button", { name: "Length" })).toHaveLength(0);
		expect(screen.queryByText("and…")).toBeNull();
	});

	it("opens the setting of an underlined word by keyboard, and saves it", async () => {
		const asked = answering({
			...read,
			"POST /setting": setting(),
			"POST /changes": { revision: 2, added: [], sentences: [] },
		});
		const { person } = script();
		const word = await screen.findByRole("button", { name: "Name" });
		word.focus();
		await person.keyboard("{Enter}");
		const input = await screen.findByLabelText("Name", { selector: "input" });
		await person.clear(input);
		await person.type(input, "Full name");
		await person.click(screen.getByRole("button", { name: "Save" }));
		await waitFor(() => expect(asked.some((a) => a.path.endsWith("/changes"))).toBe(true));
		expect(asked.find((a) => a.path.endsWith("/changes"))?.body).toEqual({
			changes: [{ kind: "set", of: "name", values: { name: "Full name" } }],
		});
	});

	it("moves a line by Alt and the arrows, and no further than its group", async () => {
		const asked = answering({ ...read, "POST /changes": { revision: 2, added: [], sentences: [] } });
		script();
		const word = await screen.findByRole("button", { name: "Length" });
		fireEvent.keyDown(word, { key: "ArrowDown", altKey: true });
		fireEvent.keyDown(word, { key: "ArrowUp", altKey: true });
		await waitFor(() => expect(asked.filter((a) => a.path.endsWith("/changes"))).toHaveLength(1));
		expect(asked.find((a) => a.body?.changes)?.body).toMatchObject({
			changes: [{ kind: "move", of: "length", to: 0 }],
		});
	});

	it("says what else can be said: a list to search in, and then the control", async () => {
		const clauses = ["Required", "Help", "Smallest value", "Largest value", "Unit", "No duplicates"].map((label) => ({
			name: label.toLowerCase(),
			label,
			group: label.endsWith("value") ? "Numbers" : "Filling in",
		}));
		const required = setting({
			title: "Required",
			slots: [{ name: "required", label: "Required", control: "switch", value: false }],
		});
		const asked = answering({
			...read,
			"GET /clauses": { clauses },
			"POST /setting": required,
			"POST /changes": { revision: 2, added: [], sentences: [] },
		});
		const { person } = script();
		await person.click(await screen.findByText("and…"));
		await person.type(await screen.findByLabelText("Search what can be said"), "value");
		expect(screen.queryByText("Unit")).toBeNull();
		await person.clear(screen.getByLabelText("Search what can be said"));
		await person.type(screen.getByLabelText("Search what can be said"), "requ{Enter}");
		await person.click(await screen.findByRole("checkbox", { name: "Required" }));
		await person.click(screen.getByRole("button", { name: "Save" }));
		await waitFor(() =>
			expect(asked.find((a) => a.path.endsWith("/changes"))?.body).toEqual({
				changes: [{ kind: "set", of: "name", values: { required: true } }],
			}),
		);
	});

	it("tells what a removal does before it is made", async () => {
		const asked = answering({
			...read,
			"POST /effects": {
				mends: [{ use: "the label of Boats", does: "all of them are labelled “Boats”" }],
				losses: [{ text: "Removes Length from Boats.", count: 2, loss: true, stop: false, samples: ["12", "9"] }],
				openings: [],
			},
			"POST /changes": { revision: 2, added: [], sentences: [] },
		});
		const { person } = script();
		await person.click(await screen.findByLabelText("More about Length"));
		await person.click(await screen.findByRole("menuitem", { name: "Remove" }));
		const dialog = await screen.findByRole("dialog", { name: "Remove Length?" });
		expect(await within(dialog).findByText(/1 place uses it/)).toBeTruthy();
		expect(within(dialog).getByText("For example: “12” and “9”")).toBeTruthy();
		await person.click(within(dialog).getByRole("button", { name: "Remove and change these" }));
		await waitFor(() =>
			expect(asked.find((a) => a.path.endsWith("/changes"))?.body).toEqual({
				changes: [{ kind: "remove", of: "length", mend: true }],
			}),
		);
	});

	it("says what went wrong and tries again", async () => {
		let broken = true;
		answering({
			...read,
			"GET /script/data": () => (broken ? new Refusal(500, "Something went wrong on our side.") : { lines: [boats] }),
		});
		const { person } = script();
		expect(await screen.findByText("Something went wrong on our side.")).toBeTruthy();
		broken = false;
		await person.click(screen.getByRole("button", { name: "Try again" }));
		expect(await screen.findByText("Length")).toBeTruthy();
	});
});

describe("a setting", () => {
	it("is left unsaid", async () => {
		const done = vi.fn();
		const asked = answering({
			"POST /setting": setting({ unsays: ["sort", "falling"] }),
			"POST /changes": { revision: 2, added: [], sentences: [] },
		});
		const { person } = show(<SettingForm app="a1" asked={{ of: "name", name: "sort" }} onDone={done} />);
		await person.click(await screen.findByRole("button", { name: "Leave unsaid" }));
		await waitFor(() => expect(done).toHaveBeenCalled());
		expect(asked.find((a) => a.path.endsWith("/changes"))?.body).toEqual({
			changes: [{ kind: "set", of: "name", values: { sort: null, falling: null } }],
		});
	});

	it("closes without a change where nothing was changed", async () => {
		const done = vi.fn();
		const asked = answering({ "POST /setting": setting() });
		const { person } = show(<SettingForm app="a1" asked={{ of: "name", name: "name" }} onDone={done} />);
		await person.click(await screen.findByRole("button", { name: "Save" }));
		expect(done).toHaveBeenCalled();
		expect(asked).toHaveLength(1);
	});

	it("stays open with the words of a refusal", async () => {
		const done = vi.fn();
		answering({
			"POST /setting": setting(),
			"POST /changes": new Refusal(422, "“Boats” is there already. Choose another name."),
		});
		const { person } = show(<SettingForm app="a1" asked={{ of: "name", name: "name" }} onDone={done} />);
		await person.type(await screen.findByLabelText("Name"), "s");
		await person.click(screen.getByRole("button", { name: "Save" }));
		expect((await screen.findByRole("alert")).textContent).toBe("“Boats” is there already. Choose another name.");
		expect(done).not.toHaveBeenCalled();
	});

	it("reads anew what depends on a choice, and keeps what was entered", async () => {
		const add = { what: "field", into: "boat" };
		const name = { name: "name", label: "Name", control: "text", value: "" };
		const type = {
			name: "type",
			label: "It holds",
			control: "pick",
			value: "text",
			renews: true,
			options: [
				{ value: "text", label: "Text" },
				{ value: "choice", label: "Choice" },
			],
		};
		const list = {
			name: "list",
			label: "Choices from",
			control: "pick",
			value: "l1",
			options: [{ value: "l1", label: "Kinds" }],
		};
		const asked = answering({
			"POST /setting": (a: { body: { values?: { type?: string; name?: string } } }) => ({
				title: "Add a field",
				add,
				slots:
					a.body.values?.type === "choice"
						? [{ ...name, value: a.body.values.name ?? "" }, { ...type, value: "choice" }, list]
						: [name, type],
			}),
			"POST /changes": { revision: 2, added: ["f1"], sentences: [] },
		});
		const done = vi.fn();
		const { person } = show(<SettingForm app="a1" asked={{ add }} onDone={done} />);
		await person.type(await screen.findByLabelText("Name"), "Kind");
		await person.selectOptions(screen.getByLabelText("It holds"), "Choice");
		expect(await screen.findByLabelText("Choices from")).toBeTruthy();
		await waitFor(() =>
			expect((screen.getByRole("button", { name: "Add" }) as HTMLButtonElement).disabled).toBe(false),
		);
		await person.click(screen.getByRole("button", { name: "Add" }));
		await waitFor(() => expect(done).toHaveBeenCalled());
		expect(asked.find((a) => a.path.endsWith("/changes"))?.body).toEqual({
			changes: [{ kind: "add", what: "field", into: "boat", values: { name: "Kind", type: "choice", list: "l1" } }],
		});
	});

	it("makes no change of which it is not known what it does besides", async () => {
		const asked = answering({
			"POST /setting": setting({ asks: true }),
			"POST /effects": new Refusal(503, "The database does not answer."),
			"POST /changes": { revision: 2, added: [], sentences: [] },
		});
		const { person } = show(<SettingForm app="a1" asked={{ of: "name", name: "name" }} onDone={() => {}} />);
		await person.type(await screen.findByLabelText("Name"), "x");
		await person.click(screen.getByRole("button", { name: "Save" }));
		expect((await screen.findByRole("alert")).textContent).toBe("The database does not answer.");
		expect(asked.some((a) => a.path.endsWith("/changes"))).toBe(false);
	});

	it("asks first where values of records would be hidden", async () => {
		const asked = answering({
			"POST /setting": setting({ asks: true }),
			"POST /effects": {
				mends: [],
				losses: [{ text: "1 value doesn’t convert and is hidden.", count: 1, loss: true, stop: false }],
				openings: ["Visitors can add to Owners."],
			},
			"POST /changes": { revision: 2, added: [], sentences: [] },
		});
		const { person } = show(<SettingForm app="a1" asked={{ of: "name", name: "name" }} onDone={() => {}} />);
		await person.type(await screen.findByLabelText("Name"), "x");
		await person.click(screen.getByRole("button", { name: "Save" }));
		expect(await screen.findByText("1 value doesn’t convert and is hidden.")).toBeTruthy();
		expect(screen.getByText("Visitors can add to Owners.")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Cancel" }));
		expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe("Namex");
		expect(asked.some((a) => a.path.endsWith("/changes"))).toBe(false);
	});
});

const options = [
	{ value: "a", label: "Apple" },
	{ value: "b", label: "Bean" },
	{ value: "c", label: "Corn" },
];

describe("some of several", () => {
	it("are added, moved and removed", async () => {
		const changed = vi.fn();
		const { person, rerender } = show(
			<Ordered label="Fields" options={options} value={["a", "b"]} onChange={changed} />,
		);
		await person.selectOptions(screen.getByLabelText("Add to: Fields"), "Corn");
		expect(changed).toHaveBeenLastCalledWith(["a", "b", "c"]);
		await person.click(screen.getByLabelText("Move Bean up"));
		expect(changed).toHaveBeenLastCalledWith(["b", "a"]);
		await person.click(screen.getByLabelText("Remove Apple"));
		expect(changed).toHaveBeenLastCalledWith(["b"]);
		expect((screen.getByLabelText("Move Apple up") as HTMLButtonElement).disabled).toBe(true);
		rerender(<Ordered label="Fields" options={options} value={[]} onChange={changed} />);
		expect(screen.getByText("None.")).toBeTruthy();
	});
});

describe("slots", () => {
	const slot = (control: string, value: unknown, more = {}) => ({
		name: "x",
		label: "The setting",
		control,
		value,
		options,
		...more,
	});
	it.each([
		["switch", false, async (p: Person) => p.click(screen.getByLabelText("The setting")), true],
		["text", "", async (p: Person) => p.type(screen.getByLabelText("The setting"), "x"), "x"],
		["number", null, async (p: Person) => p.type(screen.getByLabelText("The setting"), "7"), 7],
		["number", 7, async (p: Person) => p.clear(screen.getByLabelText("The setting")), null],
		["pick", "a", async (p: Person) => p.selectOptions(screen.getByLabelText("The setting"), "Bean"), "b"],
		[
			"many",
			["a"],
			async (p: Person) => p.selectOptions(screen.getByLabelText("Add to: The setting"), "Corn"),
			["a", "c"],
		],
		[
			"questions",
			[{ field: "a" }, { field: "b", required: true }],
			async (p: Person) => p.click(screen.getByLabelText("Move Bean up")),
			[
				{ field: "b", required: true },
				{ field: "a", required: false },
			],
		],
		[
			"reach",
			{ extent: "none" },
			async (p: Person) => p.selectOptions(screen.getByLabelText("The setting"), "all"),
			{ extent: "all" },
		],
		["sets", [], async (p: Person) => p.selectOptions(screen.getByLabelText("Add to: The setting"), "Bean"), [["b"]]],
		["given", [], async (p: Person) => p.click(screen.getByText("Set a field")), [{ field: "a", value: "me" }]],
		["paths", [], async (p: Person) => p.click(screen.getByText("Add a page")), [{ page: "a", when: "" }]],
		["rules", [], async (p: Person) => p.click(screen.getByText("Add a rule")), [{ holds: "", says: "" }]],
		["colour", "#112233", async (p: Person) => p.click(screen.getByText("No colour")), ""],
	] as const)("%s %j gives what is entered", async (control, value, act, want) => {
		const changed = vi.fn();
		const { person } = show(<SlotInput app="a1" slot={slot(control, value)} value={value} onChange={changed} />);
		await act(person);
		expect(changed).toHaveBeenLastCalledWith(want);
	});
	it("say their group by a legend, and the words of help", () => {
		show(<SlotInput app="a1" slot={slot("many", [], { help: "In this order" })} value={[]} onChange={() => {}} />);
		expect(screen.getByRole("group", { name: /The setting/ })).toBeTruthy();
		expect(screen.getByText("In this order")).toBeTruthy();
	});
});
