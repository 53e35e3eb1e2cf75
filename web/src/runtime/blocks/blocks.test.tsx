import { cleanup, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { describe, expect, it } from "vitest";
import { answering, Refusal, show } from "../../testing";
import { PageView } from "../PageView";
import type { App, Page } from "../place";
import { BlockView } from ".";
import { block, name, one, row, where } from "./sample";

type Asked = { column: { id: string }; required?: boolean; [more: string]: unknown };

/** A form with questions, which are all shown at first. */
const form = ({ questions = asks, ...more }: { questions?: Asked[]; [more: string]: unknown } = {}) =>
	block({
		kind: "form",
		submit: "",
		revision: 0,
		live: false,
		order: questions.map((q) => ({ id: `q_${q.column.id}` })),
		state: {
			parts: Object.fromEntries(questions.map((q) => [`q_${q.column.id}`, { required: q.required }])),
			questions: questions.map((q) => ({ id: `q_${q.column.id}`, ...q })),
			blocks: [],
		},
		...more,
	});

const asks = [
	{ column: name, required: true, value: null, options: [], more: false },
	{
		column: { ...name, id: "note", name: "Note", help: "What you noticed" },
		required: false,
		value: null,
		options: [],
		more: false,
	},
];

describe("a group", () => {
	const text = (id: string, words: string) => ({ id, kind: "text", html: `<p>${words}</p>` });
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

	it("puts buttons that follow each other into a row", async () => {
		const button = (id: string) => ({ id, kind: "button", text: `Go ${id}`, to: { path: id } });
		one(group({ blocks: [button("a"), button("b"), text("t", "Between"), button("c")] }));
		const rows = document.querySelectorAll(".button-row");
		expect(rows).toHaveLength(1);
		await waitFor(() => expect(rows[0]?.textContent).toBe("Go aGo b"));
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

	it("takes a day from the address for what is added, and nothing else", async () => {
		const day = { ...name, id: "day", name: "Day", type: "date", kind: "date" };
		const asks = [
			{ column: name, required: true, value: null },
			{ column: day, required: true, value: "2026-01-01" },
		];
		const at = "/?set.day=2026-05-12&set.name=Mallory";
		const shown = (label: string) => (screen.getByLabelText(label) as HTMLInputElement).value;
		one(form({ questions: asks }), at);
		await screen.findByLabelText("Day");
		expect([shown("Day"), shown("Name")]).toEqual(["2026-05-12", ""]);
		cleanup();
		one(form({ questions: asks, revision: 3 }), at);
		await screen.findByLabelText("Day");
		expect(shown("Day")).toBe("2026-01-01"); // a link changes nothing of what is there
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

	it("changes details where they stand", async () => {
		const asked = answering({ "POST /lists/b1/rows/7": { revision: 2 } });
		const { person } = one(
			block({ kind: "details", title: "About her", columns: [name], edits: ["name"], row: row("7") }),
		);
		expect(await screen.findByRole("heading", { name: "About her" })).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Change Name: Boat 7" }));
		await person.clear(screen.getByLabelText("Name"));
		await person.type(screen.getByLabelText("Name"), "Tern{Enter}");
		await waitFor(() => expect(asked[0]?.body).toMatchObject({ revision: 1, values: { name: "Tern" } }));
	});

	it("shows numbers as stars, as bars, and as years", async () => {
		const number = { ...name, type: "number", kind: "number" };
		const columns = [
			{ ...number, id: "stars", name: "Stars", show: "rating", most: 5 },
			{ ...number, id: "bar", name: "Done", show: "bar", most: 40 },
			{ ...number, id: "year", name: "Built", show: "year" },
		];
		one(block({ kind: "details", columns, edits: [], row: { id: "7", stars: "4", bar: "10", year: "1987" } }));
		const stars = await screen.findByRole("img", { name: "4 of 5" });
		expect(stars.querySelectorAll('[data-on="true"]')).toHaveLength(4);
		expect((document.querySelector(".measure-bar > span") as HTMLElement).style.width).toBe("25%");
		expect(screen.getByText("1987")).toBeTruthy();
	});

	it("details show what is there, and say that nothing is", async () => {
		one(block({ kind: "details", columns: [name], edits: [], row: row("7") }));
		expect(await screen.findByText("Boat 7")).toBeTruthy();
		one(block({ kind: "details", columns: [], edits: [], row: row("7") }));
		expect(await screen.findByText("You can’t see any of these details.")).toBeTruthy();
	});

	it("what a service answers stands in a table, or says why there is nothing", async () => {
		const tides = {
			kind: "service",
			columns: [
				{ name: "High", type: "yes/no" },
				{ name: "Height", type: "number" },
			],
		} as const;
		answering({
			"GET /services/b": {
				rows: [
					[true, "3.5"],
					[false, null],
				],
				at: "2026-05-02T10:00:00Z",
			},
		});
		one(block({ ...tides, columns: [...tides.columns], id: "b" }));
		await screen.findByText("3.5");
		expect(screen.getAllByRole("row")).toHaveLength(3);
		expect(screen.getByText("Yes")).toBeTruthy();
		expect(screen.getByText(/As of/)).toBeTruthy();
		cleanup();
		answering({ "GET /services/b": { rows: [], problem: "The harbour is asleep." } });
		one(block({ ...tides, columns: [...tides.columns], id: "b" }));
		await screen.findByText("The harbour is asleep.");
		cleanup();
		answering({ "GET /services/b": { rows: [] } });
		one(block({ ...tides, columns: [...tides.columns], id: "b", empty: "No tides." }));
		await screen.findByText("No tides.");
		cleanup();
		answering({ "GET /services/b": { rows: [[true, "3.5"]] } });
		one(block({ ...tides, columns: [...tides.columns], id: "b", one: true }));
		await screen.findByText("3.5");
		expect(screen.queryByRole("table")).toBeNull();
	});

	it("a divider is a line", () => {
		one(block({ kind: "divider" }));
		expect(screen.getByRole("separator")).toBeTruthy();
	});
});

const app: App = {
	name: "Alder Cove",
	theme: "Harbour",
	look: {},
	faces: [],
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

describe("a button for a workflow", () => {
	const button = (more: object) => block({ kind: "button", text: "Mark as done", starts: true, ...more });

	it("starts it once for each press, and says what it said", async () => {
		const asked = answering({ "POST /workflows/w_done": { message: "Well done!" } });
		const { person } = one(button({ flow: { id: "w_done", record: "r1" } }));
		await person.click(await screen.findByText("Mark as done"));
		await waitFor(() => expect(screen.getByText("Well done!")).toBeTruthy());
		expect(asked).toHaveLength(1);
		expect(asked[0]?.body).toMatchObject({ record: "r1" });
	});

	it("says why it did not work, and keeps its key for the next try", async () => {
		const asked = answering({ "POST /workflows/w_done": new Refusal(422, "This is not possible now.") });
		const { person } = one(button({ flow: { id: "w_done" } }));
		await person.click(await screen.findByText("Mark as done"));
		await waitFor(() => expect(screen.getByRole("alert").textContent).toContain("not possible now"));
		await person.click(screen.getByText("Mark as done"));
		await waitFor(() => expect(asked).toHaveLength(2));
		expect(asked[1]?.body.key).toBe(asked[0]?.body.key);
	});

	it("is not there while it makes no sense", () => {
		one(button({}));
		expect(screen.queryByText("Mark as done")).toBeNull();
	});
});
