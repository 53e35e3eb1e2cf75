import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes, useLocation } from "react-router";
import { describe, expect, it } from "vitest";
import { answering, Refusal, show } from "../../testing";
import { PageView } from "../PageView";
import type { App, Block, Page } from "../place";
import { BlockView } from ".";

const where = { path: "boats", record: "" };
const name = { id: "name", table: "boat", name: "Name", type: "text", kind: "text", entered: true };
const kind = {
	...name,
	id: "kind",
	name: "Kind",
	type: "choice",
	kind: "choice",
	choices: [{ id: "k1", label: "Dinghy" }],
};
const row = (id: string) => ({ id, name: `Boat ${id}`, revision: 1 });
const block = (b: object) => ({ id: "b1", ...b }) as unknown as Block;
const list = (more: object = {}) =>
	block({
		kind: "records",
		columns: [name, kind],
		rows: [row("1"), row("2")],
		next: "",
		open: "",
		empty: "",
		sort: "",
		falling: false,
		title: "",
		as: "table",
		ways: ["table"],
		fields: [],
		edits: [],
		filters: [],
		notes: [],
		totals: [],
		search: "",
		...more,
	});
const form = (more: object = {}) =>
	block({
		kind: "form",
		submit: "",
		revision: 0,
		questions: [
			{ column: name, required: true, value: null, options: [], more: false },
			{
				column: { ...name, id: "note", name: "Note", help: "What you noticed" },
				required: false,
				value: null,
				options: [],
				more: false,
			},
		],
		...more,
	});

let here = "";
const Here = () => {
	here = useLocation().search;
	return null;
};
/** What the address asks, as it is now. */
const address = () => decodeURIComponent(here);

const one = (b: Block, at?: string) =>
	show(
		<>
			<BlockView block={b} where={where} />
			<Here />
		</>,
		at,
	);

describe("a list", () => {
	it("says that it is empty, in the words of the app", async () => {
		one(list({ rows: [], empty: "No boats yet." }));
		expect(await screen.findByText("No boats yet.")).toBeTruthy();
	});

	it("shows more, and keeps what was there", async () => {
		const asked = answering({ "GET /lists/b1": list({ rows: [row("3")], next: "" }) });
		const { person } = one(list({ next: "after-2" }));
		await person.click(await screen.findByRole("button", { name: "Show more" }));
		expect(await screen.findByText("Boat 3")).toBeTruthy();
		expect(screen.getByText("Boat 1")).toBeTruthy();
		expect(asked[0]?.query.get("after")).toBe("after-2");
		expect(screen.queryByRole("button", { name: "Show more" })).toBeNull();
	});

	it("sorts by a click, the other way round by another, and the address says so", async () => {
		const { person } = one(list());
		await person.click(await screen.findByRole("button", { name: "Name" }));
		expect(address()).toBe("?b1.by=name");
		cleanup();
		const again = one(list({ sort: "name", falling: false }));
		expect((await screen.findByRole("columnheader", { name: "Name" })).getAttribute("aria-sort")).toBe("ascending");
		await again.person.click(screen.getByRole("button", { name: "Name" }));
		expect(address()).toBe("?b1.by=-name");
	});

	it("searches, narrows by choices, and asks for all again", async () => {
		const filters = [{ column: kind, value: "k1" }];
		const { person } = one(list({ rows: [], filters, search: "z" }), "/?b1.find=z&b1.is.kind=k1&other.find=y");
		expect(await screen.findByText("No records match.")).toBeTruthy();
		expect((screen.getByPlaceholderText("Search") as HTMLInputElement).value).toBe("z");
		await person.click(screen.getByRole("button", { name: /Kind/ }));
		expect((screen.getByLabelText("Dinghy") as HTMLInputElement).checked).toBe(true);
		await person.click(screen.getByLabelText("No kind"));
		expect(new URLSearchParams(address()).get("b1.is.kind")).toBe("k1,-");
		await person.keyboard("{Escape}");
		expect(screen.queryByLabelText("Dinghy")).toBeNull();
		await person.type(screen.getByPlaceholderText("Search"), "oo");
		await waitFor(() => expect(new URLSearchParams(address()).get("b1.find")).toBe("zoo"));
		await person.click(screen.getAllByRole("button", { name: "Show all" })[0] as HTMLElement);
		expect(address()).toBe("?other.find=y");
		await waitFor(() => expect((screen.getByPlaceholderText("Search") as HTMLInputElement).value).toBe(""));
	});

	it("narrows by ranges and by yes or no", async () => {
		const length = { ...name, id: "length", name: "Length", type: "number", kind: "number" };
		const done = { ...name, id: "done", name: "Done", type: "yes/no", kind: "yes/no" };
		const filters = [
			{ column: length, value: "7.." },
			{ column: done, value: "" },
		];
		const { person } = one(list({ filters }), "/?b1.is.length=7..");
		await person.click(await screen.findByRole("button", { name: "Length from 7" }));
		await person.type(screen.getByLabelText("To"), "9,5{Enter}");
		expect(new URLSearchParams(address()).get("b1.is.length")).toBe("7..9.5");
		await person.selectOptions(screen.getByLabelText("Done"), "No");
		expect(new URLSearchParams(address()).get("b1.is.done")).toBe("no");
	});

	it("is shown in other ways, and tells what of the address is left out", async () => {
		const { person } = one(list({ ways: ["table", "cards"], notes: ["The filter was left out."] }));
		expect((await screen.findByRole("status")).textContent).toBe("The filter was left out.");
		await person.click(screen.getByRole("button", { name: "Cards" }));
		expect(address()).toBe("?b1.as=cards");
		cleanup();
		one(
			list({
				ways: ["table", "cards"],
				as: "cards",
				badge: "kind",
				rows: [{ ...row("1"), label: "Tern", kind: "k1" }],
			}),
		);
		expect(await screen.findByText("Tern")).toBeTruthy();
		expect(screen.getByText("Dinghy").className).toBe("badge");
	});

	it("has groups with their totals", async () => {
		const length = { ...name, id: "length", name: "Length", type: "number", kind: "number", unit: "m" };
		one(
			list({
				columns: [name, length],
				fields: [kind],
				group: "kind",
				rows: [
					{ ...row("1"), kind: "k1" },
					{ ...row("2"), kind: "k1" },
					{ ...row("3"), kind: null },
				],
				totals: [
					{ value: "k1", label: "", count: 2, sums: { length: "12.5" } },
					{ value: "", label: "", count: 1, sums: {} },
				],
			}),
		);
		expect((await screen.findAllByRole("rowheader")).map((g) => g.textContent)).toEqual([
			"Dinghy2Length 12.5 m",
			"No kind1",
		]);
	});

	it("opens a row beside it where it is to, and keeps what was asked", async () => {
		const { person } = one(list({ open: "boat", openAs: "panel" }), "/?b1.by=name");
		await person.click(await screen.findByRole("link", { name: "Boat 2" }));
		expect(Object.fromEntries(new URLSearchParams(address()))).toEqual({
			"b1.by": "name",
			open: "boat/2",
			in: "panel",
		});
	});
});

describe("a value that is changed where it stands", () => {
	const edited = list({ edits: ["name"], rows: [row("1")] });

	it("is saved by Enter, and left by Escape", async () => {
		const asked = answering({ "POST /lists/b1/rows/1": undefined });
		const { person } = one(edited);
		await person.click(await screen.findByRole("button", { name: "Change Name: Boat 1" }));
		await person.type(screen.getByLabelText("Name"), " II{Escape}");
		expect(asked).toHaveLength(0);
		await person.click(screen.getByRole("button", { name: "Change Name: Boat 1" }));
		await person.type(screen.getByLabelText("Name"), " II{Enter}");
		await waitFor(() =>
			expect(asked[0]?.body).toEqual({ path: "boats", record: "", revision: 1, values: { name: "Boat 1 II" } }),
		);
		await screen.findByRole("button", { name: "Change Name: Boat 1" });
	});

	it("says at its place what is wrong", async () => {
		answering({
			"POST /lists/b1/rows/1": new Refusal(422, "Check.", [{ location: "name", message: "Fill in Name." }]),
		});
		const { person } = one(edited);
		await person.click(await screen.findByRole("button", { name: "Change Name: Boat 1" }));
		await person.clear(screen.getByLabelText("Name"));
		await person.click(screen.getByRole("button", { name: "Save" }));
		expect((await screen.findByRole("alert")).textContent).toBe("Fill in Name.");
	});

	it("shows both values where somebody was faster, and saves the one that is chosen", async () => {
		let stale = true;
		const asked = answering({
			"POST /lists/b1/rows/1": () => (stale ? new Refusal(409, "Changed meanwhile.") : undefined),
		});
		const { person } = one(edited);
		await person.click(await screen.findByRole("button", { name: "Change Name: Boat 1" }));
		await person.type(screen.getByLabelText("Name"), "x{Enter}");
		expect((await screen.findByRole("alert")).textContent).toContain("Here it is now Boat 1");
		stale = false;
		await person.click(screen.getByRole("button", { name: "Save mine" }));
		await waitFor(() => expect(asked).toHaveLength(2));
		expect(asked[1]?.body.values).toEqual({ name: "Boat 1x" });
	});
});

describe("a board", () => {
	const status = { ...kind, id: "status", name: "Status" };
	const cards = (...ids: string[]) => ids.map((id) => ({ ...row(id), label: `Order ${id}`, status: "k1" }));
	const board = (more: object = {}) =>
		list({
			as: "board",
			rows: [],
			fields: [status],
			edits: ["status"],
			board: {
				field: "status",
				columns: [
					{ value: "k1", label: "Planned", count: 52, sums: {}, rows: cards("1", "2"), next: "n" },
					{ value: "k2", label: "Done", count: 0, sums: {}, rows: [], next: "" },
				],
			},
			...more,
		});

	it("has columns with their cards, and reads each on", async () => {
		const asked = answering({ "GET /lists/b1": list({ rows: cards("3"), next: "" }) });
		const { person } = one(board());
		const planned = await screen.findByRole("region", { name: "Planned" });
		expect(within(planned).getByText("52")).toBeTruthy();
		expect(within(planned).getByText("Order 2")).toBeTruthy();
		expect(within(screen.getByRole("region", { name: "Done" })).getByText("Nothing here")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Show more" }));
		expect(await within(planned).findByText("Order 3")).toBeTruthy();
		expect(asked[0]?.query.get("column")).toBe("k1");
	});

	it("lets only those pick up cards who may move them", async () => {
		one(board({ edits: [] }));
		const card = (await screen.findByText("Order 1")).closest("li");
		expect(card?.getAttribute("tabindex")).toBeNull();
		cleanup();
		one(board());
		expect((await screen.findByText("Order 1")).closest("li")?.getAttribute("tabindex")).toBe("0");
	});
});

describe("a calendar", () => {
	const day = { ...name, id: "day", name: "Day", type: "date", kind: "date" };
	const calendar = (more: object = {}) =>
		list({
			as: "calendar",
			fields: [day],
			edits: ["day"],
			add: { id: "", kind: "button", text: "Add a haul-out", to: { path: "plan" } },
			rows: [
				{ ...row("1"), label: "Launch: Tern", day: "2026-05-04" },
				{ ...row("2"), label: "Long one", day: "2026-05-05", until: "2026-05-07" },
			],
			calendar: {
				from: "day",
				until: "until",
				span: "month",
				day: "2026-05-01",
				first: "2026-04-27",
				last: "2026-05-31",
				today: "2026-05-04",
			},
			...more,
		});
	const on = (words: string) => screen.getByRole("region", { name: words });

	it("has records on all of their days", async () => {
		one(calendar());
		await screen.findByText("May 2026");
		expect(within(on("May 4, 2026")).getByText("Launch: Tern")).toBeTruthy();
		for (const d of ["May 5, 2026", "May 6, 2026", "May 7, 2026"])
			expect(within(on(d)).getByText("Long one")).toBeTruthy();
		expect(within(on("May 8, 2026")).queryByText("Long one")).toBeNull();
		expect(screen.getAllByRole("region")).toHaveLength(35);
	});

	it("goes to other days, and adds with the day filled in", async () => {
		const { person } = one(calendar());
		await person.click(await screen.findByRole("button", { name: "Later" }));
		expect(address()).toBe("?b1.day=2026-06-01");
		await person.click(screen.getByRole("button", { name: "Week" }));
		expect(new URLSearchParams(address()).get("b1.span")).toBe("week");
		const add = screen.getByRole("link", { name: "Add a haul-out on May 9, 2026" });
		expect(add.getAttribute("href")).toBe("/plan?set.day=2026-05-09");
	});

	it("is told as an agenda of days that have something", async () => {
		one(
			calendar({
				calendar: {
					from: "day",
					span: "agenda",
					day: "2026-05-01",
					first: "2026-05-01",
					last: "2026-05-30",
					today: "",
				},
			}),
		);
		expect((await screen.findAllByRole("heading", { level: 4 })).map((h) => h.textContent)).toEqual([
			"Monday, May 4",
			"Tuesday, May 5",
		]);
	});
});

describe("a group", () => {
	const text = (id: string, words: string) => ({ id, kind: "text", text: words });
	const group = (more: object) => block({ kind: "group", title: "Details", blocks: [text("t1", "First")], ...more });

	it("is folded until somebody opens it", async () => {
		const { person } = one(group({ look: "folded" }));
		const details = screen.getByText("First").closest("details");
		expect(details?.open).toBe(false);
		await person.click(screen.getByText("Details"));
		expect(details?.open).toBe(true);
	});

	it("has tabs, which arrows choose", async () => {
		const tab = (id: string, words: string) => ({
			id,
			kind: "group",
			title: words,
			blocks: [text(`${id}t`, `About ${words}`)],
		});
		const { person } = one(group({ look: "tabs", blocks: [tab("x", "Hours"), tab("y", "Parts")] }));
		expect(screen.getByText("About Hours")).toBeTruthy();
		expect(screen.queryByText("About Parts")).toBeNull();
		await person.click(screen.getByRole("tab", { name: "Hours" }));
		await person.keyboard("{ArrowRight}");
		expect(screen.getByText("About Parts")).toBeTruthy();
		expect(document.activeElement?.textContent).toBe("Parts");
	});

	it("puts buttons that follow each other into a row", () => {
		const button = (id: string) => ({ id, kind: "button", text: `Go ${id}`, to: { path: id } });
		one(group({ blocks: [button("a"), button("b"), text("t", "Between"), button("c")] }));
		const rows = document.querySelectorAll(".button-row");
		expect(rows).toHaveLength(1);
		expect(rows[0]?.textContent).toBe("Go aGo b");
	});
});

describe("a form", () => {
	it("marks what is wrong, and goes there", async () => {
		answering({
			"POST /forms/b1": new Refusal(422, "Nothing is saved yet. Check the marked answers.", [
				{ location: "name", message: "Fill in Name." },
			]),
		});
		const { person } = one(form());
		await person.click(await screen.findByRole("button", { name: "Send" }));
		expect(await screen.findByText("Fill in Name.")).toBeTruthy();
		const field = screen.getByLabelText("Name");
		expect(field.getAttribute("aria-invalid")).toBe("true");
		expect(document.getElementById(field.getAttribute("aria-describedby") ?? "")?.textContent).toBe("Fill in Name.");
		expect(document.activeElement).toBe(field);
		expect(screen.getByRole("alert").textContent).toBe("Nothing is saved yet. Check the marked answers.");
	});

	it("sends what was entered, and begins anew", async () => {
		const asked = answering({ "POST /forms/b1": { thanks: "Thank you." } });
		const { person } = one(form({ submit: "Ask for work" }));
		await person.type(await screen.findByLabelText("Name"), "Tern");
		expect(screen.getByText("What you noticed")).toBeTruthy();
		expect(screen.getByText("(optional)")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Ask for work" }));
		await waitFor(() =>
			expect(asked[0]?.body).toMatchObject({ path: "boats", revision: 0, values: { name: "Tern", note: null } }),
		);
		await waitFor(() => expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe(""));
	});

	it("keeps its key until it is sent, and has another one then", async () => {
		let lost = true;
		const asked = answering({
			"POST /forms/b1": () => (lost ? new Refusal(503, "The database is away.") : { thanks: "Thank you." }),
		});
		const { person } = one(form());
		const name = await screen.findByLabelText("Name");
		const press = async (times: number) => {
			await person.click(screen.getByRole("button", { name: "Send" }));
			await waitFor(() => expect(asked.length).toBe(times));
		};
		await person.type(name, "Tern");
		await press(1);
		await screen.findByText("The database is away.");
		lost = false;
		await press(2);
		await waitFor(() => expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe(""));
		await press(3);
		const [first, again, other] = asked.map((a) => a.body.key);
		expect(first).toMatch(/^[0-9a-f]{32}$/);
		expect(again).toBe(first);
		expect(other).not.toBe(first);
	});

	it("sends of many links only what is other than before", async () => {
		const asked = answering({ "POST /forms/b1": { thanks: "" } });
		const links = { ...name, id: "crew", name: "Crew", type: "links", kind: "record", many: true };
		const crew = [
			{ id: "1", label: "Ines" },
			{ id: "2", label: "Tomas" },
		];
		const options = [{ id: "3", label: "Ruth" }];
		const { person } = one(
			form({
				revision: 4,
				questions: [
					{ column: links, required: false, value: crew, count: 42, options, more: false },
					{ column: name, required: true, value: null, options: [], more: false },
				],
			}),
		);
		expect(await screen.findByText("and 40 more, which stay linked")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Remove Tomas" }));
		await person.click(screen.getByRole("combobox"));
		await person.click(await screen.findByRole("option", { name: "Ruth" }));
		await person.click(screen.getByRole("button", { name: "Send" }));
		await waitFor(() =>
			expect(asked[0]?.body.values, "what was not changed stays as it is").toEqual({
				crew: { added: ["3"], removed: ["2"] },
			}),
		);
	});

	it("says that there is nothing to fill in", async () => {
		one(form({ questions: [] }));
		expect(await screen.findByText("There is nothing for you to fill in here.")).toBeTruthy();
	});
});

describe("other blocks", () => {
	it("a heading is the main one where it is the first", () => {
		const heading = block({ kind: "heading", text: "My boats" });
		show(<BlockView block={heading} where={where} first />);
		expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("My boats");
		show(<BlockView block={heading} where={where} />);
		expect(screen.getByRole("heading", { level: 2 }).textContent).toBe("My boats");
	});

	it("a button leads on, and is not there without a way", () => {
		one(block({ kind: "button", text: "Open", to: { path: "boat", record: "r1" } }));
		expect(screen.getByRole("link", { name: "Open" }).getAttribute("href")).toBe("/boat/r1");
		one(block({ kind: "button", text: "Closed" }));
		expect(screen.queryByText("Closed")).toBeNull();
	});

	it("details show what is there, and say that nothing is", async () => {
		one(block({ kind: "details", columns: [name], row: row("7") }));
		expect(await screen.findByText("Boat 7")).toBeTruthy();
		one(block({ kind: "details", columns: [], row: row("7") }));
		expect(await screen.findByText("You can’t see any of these details.")).toBeTruthy();
	});

	it("a divider is a line", () => {
		one(block({ kind: "divider" }));
		expect(screen.getByRole("separator")).toBeTruthy();
	});
});

const app: App = {
	name: "Alder Cove",
	theme: "Harbour",
	menu: [],
	signedIn: false,
	person: "",
	signUp: false,
	locked: false,
} as unknown as App;
const page = (more: object = {}): Page => ({ id: "p1", name: "My boats", app, blocks: [], ...more }) as unknown as Page;

const pageAt = (at = "/boats") =>
	show(
		<Routes>
			<Route path="/:path?/:record?" element={<PageView />} />
		</Routes>,
		at,
	);

describe("a page", () => {
	it("names the window, and has a main heading", async () => {
		answering({ "GET /page": page() });
		pageAt();
		expect(await screen.findByText("This page has nothing on it yet.")).toBeTruthy();
		expect(document.title).toBe("My boats – Alder Cove");
		expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("My boats");
	});

	it.each([
		[403, "You have no access to this page.", "No access"],
		[404, "This doesn’t exist, or you have no access.", "Page not found"],
		[500, "Something went wrong on our side.", "Something went wrong"],
	])("says %i in words, with a way on", async (status, detail, heading) => {
		answering({ "GET /page": new Refusal(status, detail), "GET /app": app });
		pageAt();
		expect((await screen.findByRole("heading", { level: 1 })).textContent).toBe(heading);
		expect(screen.getByText(detail)).toBeTruthy();
		expect(screen.getByRole("link", { name: "Go to the home page" })).toBeTruthy();
		expect(screen.queryByRole("button", { name: "Try again" }) !== null).toBe(status >= 500);
	});
});
