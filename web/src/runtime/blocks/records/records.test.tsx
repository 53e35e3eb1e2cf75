import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { answering, Refusal } from "../../../testing";
import { viewOf } from "../../asks";
import { address, kind, list, name, one, place, row } from "../sample";

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
		const asked = answering({ "POST /lists/b1/rows/1": { revision: 2 } });
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
			"POST /lists/b1/rows/1": () => (stale ? new Refusal(409, "Changed meanwhile.") : { revision: 2 }),
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
			moves: ["status"],
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
		one(board({ moves: [] }));
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
			moves: ["day"],
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

	it("has buttons in its rows, which do not open the row", async () => {
		const go = { id: "go", kind: "button", text: "Plan", to: { path: "plan", record: "1" } };
		const { person } = one(list({ open: "boat", inside: { 1: [go], 2: [] } }));
		await person.click(await screen.findByRole("link", { name: "Plan" }));
		expect(place()).toBe("/plan/1");
		expect(screen.getAllByRole("link", { name: "Plan" })).toHaveLength(1);
	});

	it("unfolds a row to a page about its record, and folds it again", async () => {
		const inner = list({ columns: [name], rows: [row("9")], ways: ["table", "lines"] }) as object;
		const asked = answering({
			"GET /page": { app: {}, id: "p", path: "boat", name: "Boat", blocks: [{ ...inner, id: "b9" }] },
		});
		const { person } = one(list({ unfold: "boat" }));
		await person.click((await screen.findAllByRole("button", { name: "Unfold this row" }))[0] as HTMLElement);
		expect(await screen.findByText("Boat 9")).toBeTruthy();
		expect(asked[0]?.query.get("record")).toBe("1");
		await person.click(screen.getByRole("button", { name: "Lines" }));
		await waitFor(() => expect(asked[1]?.query.get("view")).toBe("b9.as=lines"));
		expect(address()).toBe("");
		await person.click(screen.getByRole("button", { name: "Fold this row" }));
		expect(screen.queryByText("Boat 9")).toBeNull();
	});

	it("is shown again as somebody last looked at it", async () => {
		localStorage.clear();
		const { person } = one(list({ ways: ["table", "lines"] }));
		await person.click(await screen.findByRole("button", { name: "Lines" }));
		expect(viewOf(new URLSearchParams("x.find=y"), "boats")).toBe("b1.as=lines&x.find=y");
		expect(viewOf(new URLSearchParams("b1.as=cards"), "boats")).toBe("b1.as=cards");
		expect(viewOf(new URLSearchParams(), "other")).toBe("");
		await person.click(screen.getByRole("button", { name: "Table" }));
		expect(viewOf(new URLSearchParams(), "boats")).toBe("");
		localStorage.setItem("/ ways boats", "nonsense");
		expect(viewOf(new URLSearchParams(), "boats")).toBe("");
		localStorage.clear();
	});
});
