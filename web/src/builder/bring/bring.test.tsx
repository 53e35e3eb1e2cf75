import { screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { answering, Holding, Refusal, show } from "../../testing";
import type { AppOut, ColumnPlan, SheetPlan as Plan, Proposal } from "../api";
import { BringFiles } from "./BringFiles";
import { Questions } from "./Questions";
import { SheetPlan } from "./SheetPlan";

const app = {
	id: "a1",
	tables: [
		{
			id: "boat",
			name: "Boats",
			fields: [
				{ id: "b_name", name: "Name", type: "text", entered: true },
				{ id: "b_no", name: "Number", type: "auto number", entered: false },
			],
		},
		{ id: "own", name: "Owners", fields: [] },
	],
} as unknown as AppOut;

const column = (header: string, more: Partial<ColumnPlan> = {}): ColumnPlan =>
	({
		header,
		name: header,
		type: "text",
		samples: ["Tern", "Auk"],
		reason: "Short texts.",
		format: {},
		...more,
	}) as ColumnPlan;

/** Opens the columns that are clear. */
const unfold = (person: { click: (e: Element) => Promise<void> }) =>
	person.click(screen.getByRole("button", { name: "Change columns" }));

const sheet = (more: Partial<Plan> = {}): Plan =>
	({
		file: "boats.csv",
		sheet: "boats",
		name: "Boats",
		mode: "new",
		rows: 3,
		notes: ["The first row has the names."],
		names: "first",
		columns: [column("Name"), column("Number", { type: "number" })],
		...more,
	}) as Plan;

/** A plan that is shown and changed, and how it was changed last. */
function planned(value: Plan, others: Plan[] = []) {
	const latest = { value };
	const shown = show(
		<Holding latest={latest}>
			{(plan, change) => (
				<SheetPlan app={app} proposal={{ sheets: [plan, ...others] } as Proposal} at={0} onChange={change} />
			)}
		</Holding>,
	);
	return { ...shown, latest };
}

describe("what becomes of a sheet", () => {
	it("goes into a new table, whose name can be changed", async () => {
		const { person, latest } = planned(sheet());
		expect(screen.getByText("The first row has the names.")).toBeTruthy();
		const name = screen.getByLabelText("Name of the new table");
		await person.clear(name);
		await person.type(name, "Vessels");
		expect(latest.value.name).toBe("Vessels");
	});

	it("is added to a table, into the fields of the same name that are entered", async () => {
		const { person, latest } = planned(sheet());
		await person.selectOptions(screen.getByLabelText("What to do with boats"), "add to Boats");
		expect(latest.value).toMatchObject({ mode: "append", table: "boat" });
		expect(latest.value.columns.map((c) => c.field)).toEqual(["b_name", ""]);
		expect(screen.queryByLabelText("Name of the new table")).toBeNull();
		await unfold(person);
		expect((screen.getByLabelText("What Name becomes") as HTMLSelectElement).value).toBe("field");
	});

	it("updates a table by a key, which is a column", async () => {
		const { person, latest } = planned(sheet());
		await person.selectOptions(screen.getByLabelText("What to do with boats"), "update Boats by a key column");
		expect(latest.value).toMatchObject({ mode: "update", table: "boat", key: "Name" });
		await person.selectOptions(screen.getByLabelText("Key column"), "Number");
		expect(latest.value.key).toBe("Number");
	});

	it("is left out with all of its columns", async () => {
		const { person, latest } = planned(sheet());
		await person.selectOptions(screen.getByLabelText("What to do with boats"), "leave out");
		expect(latest.value.mode).toBe("ignore");
		expect(screen.queryByLabelText("What Name becomes")).toBeNull();
	});
});

describe("what becomes of a column", () => {
	it("that is clear is told in a word, and unfolds", async () => {
		const { person } = planned(sheet());
		expect(screen.queryByLabelText("What Name becomes")).toBeNull();
		expect(screen.getByText("Name").closest("p")?.textContent).toBe("Name text · Number a number");
		await unfold(person);
		expect(screen.getByLabelText("What Number becomes")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Fold what is clear" }));
		expect(screen.queryByLabelText("What Name becomes")).toBeNull();
	});

	it("takes another type, or none", async () => {
		const { person, latest } = planned(sheet());
		await unfold(person);
		await person.selectOptions(screen.getByLabelText("What Name becomes"), "a phone number");
		expect(latest.value.columns[0]).toMatchObject({ type: "phone", skip: false });
		await person.selectOptions(screen.getByLabelText("What Name becomes"), "leave out");
		expect(latest.value.columns[0]?.skip).toBe(true);
		expect(screen.getByText("Not imported.")).toBeTruthy();
	});

	it("can be made a link, to a sheet by what tells its rows apart, or to a table", async () => {
		const { person, latest } = planned(sheet(), [
			sheet({ name: "People", columns: [column("Name", { unique: true }), column("Town")] }),
		]);
		await unfold(person);
		await person.selectOptions(screen.getByLabelText("What Number becomes"), "People, by Name");
		expect(latest.value.columns[1]).toMatchObject({
			type: "link",
			link: { sheet: 1, by: "Name", unmatched: "leave out" },
		});
		await person.selectOptions(screen.getByLabelText("What Number becomes"), "Owners");
		expect(latest.value.columns[1]).toMatchObject({ type: "link", link: { sheet: -1, table: "own", by: "" } });
		expect(screen.queryByRole("option", { name: "People, by Town" })).toBeNull();
	});

	it("is a choice only where few values come again", async () => {
		const { person } = planned(sheet({ columns: [column("Name"), column("Kind", { choices: ["Yacht", "Dinghy"] })] }));
		await unfold(person);
		const choice = (header: string) =>
			within(screen.getByLabelText(`What ${header} becomes`)).getByRole("option", {
				name: "a choice",
			}) as HTMLOptionElement;
		expect(choice("Name").disabled).toBe(true);
		expect(choice("Kind").disabled).toBe(false);
	});

	it("that is a link tells what it matches, and what becomes of the rest", async () => {
		const link = { sheet: -1, table: "own", by: "", matched: 12, missing: 1, ambiguous: 2, unmatched: "create" };
		const { person, latest } = planned(
			sheet({ columns: [column("Owner", { type: "link", link } as Partial<ColumnPlan>)] }),
		);
		expect(screen.getByRole("option", { name: "a link to Owners" })).toBeTruthy();
		const line = screen.getByLabelText("What Owner becomes").closest("li") as HTMLElement;
		expect(line.textContent).toContain("12 values match, 2 match several records (fix them later), 1 doesn’t match:");
		await person.selectOptions(screen.getByLabelText("Values in Owner that don’t match"), "leave empty");
		expect(latest.value.columns[0]?.link?.unmatched).toBe("leave out");
		await person.selectOptions(screen.getByLabelText("What Owner becomes"), "text");
		expect(latest.value.columns[0]?.link).toBeUndefined();
	});

	it("links to a sheet that comes along", () => {
		const link = { sheet: 1, by: "Name", matched: 3, missing: 0, ambiguous: 0, unmatched: "leave out", many: true };
		planned(sheet({ columns: [column("Crew", { type: "links", link } as Partial<ColumnPlan>)] }), [
			sheet({ name: "People" }),
		]);
		expect(screen.getByText("Crew").closest("p")?.textContent).toBe("Crew links to People");
	});
});

describe("what the files do not tell", () => {
	const ask = {
		about: "order",
		text: "Which day is “03/04/2024”?",
		answers: [
			{ value: "day", text: "3 April 2024" },
			{ value: "month", text: "4 March 2024" },
		],
	};
	const to = (sheet: number, by: string) => ({
		sheet,
		by,
		matched: 3,
		missing: 0,
		ambiguous: 0,
		unmatched: "leave out",
	});
	const link = {
		about: "link",
		text: "What do the values point to?",
		answers: [
			{ value: "", text: "Name in People", link: to(1, "Name") },
			{ value: "", text: "Name in Clubs", link: to(2, "Name") },
		],
	};
	const asked = (value: Proposal) => {
		const latest = { value };
		const shown = show(
			<Holding latest={latest}>{(p, change) => <Questions proposal={p} onChange={change} />}</Holding>,
		);
		return { ...shown, latest };
	};

	it("is asked once for all columns of a file", async () => {
		const days = (header: string) =>
			column(header, { type: "date", ask, format: { order: "day" } } as Partial<ColumnPlan>);
		const { person, latest } = asked({
			sheets: [sheet({ columns: [days("Day"), days("Until")] }), sheet({ file: "other.csv", columns: [days("Day")] })],
		} as Proposal);
		expect(screen.getAllByRole("group")).toHaveLength(2);
		expect(screen.getByText("Day, Until in boats.csv")).toBeTruthy();
		const months = screen.getAllByRole("radio", { name: "4 March 2024" });
		await person.click(months[0] as HTMLElement);
		expect(latest.value.sheets.map((s) => s.columns.map((c) => c.format.order))).toEqual([["month", "month"], ["day"]]);
		expect((screen.getAllByRole("radio", { name: "4 March 2024" })[0] as HTMLInputElement).checked).toBe(true);
	});

	it("is asked of decimals, currencies, and what a column points to", async () => {
		const { person, latest } = asked({
			sheets: [
				sheet({
					columns: [
						column("Weight", {
							type: "number",
							ask: {
								about: "comma",
								text: "How is “1.250” meant?",
								answers: [
									{ value: "point", text: "1.25" },
									{ value: "comma", text: "1250" },
								],
							},
						}),
						column("Rent", {
							type: "money",
							format: { currency: "SEK" },
							ask: {
								about: "currency",
								text: "Whose crowns are these?",
								answers: [
									{ value: "SEK", text: "SEK" },
									{ value: "NOK", text: "NOK" },
								],
							},
						}),
						column("Of", { type: "link", link: to(1, "Name"), ask: link } as Partial<ColumnPlan>),
					],
				}),
				sheet({ name: "People", columns: [] }),
				sheet({ name: "Clubs", columns: [] }),
			],
		} as unknown as Proposal);
		await person.click(screen.getByRole("radio", { name: "1250" }));
		await person.click(screen.getByRole("radio", { name: "NOK" }));
		expect((screen.getByRole("radio", { name: "Name in People" }) as HTMLInputElement).checked).toBe(true);
		await person.click(screen.getByRole("radio", { name: "Name in Clubs" }));
		const [weight, rent, of] = latest.value.sheets[0]?.columns ?? [];
		expect([weight?.format.comma, rent?.format.currency, of?.link?.sheet]).toEqual([true, "NOK", 2]);
		expect((screen.getByRole("radio", { name: "Name in Clubs" }) as HTMLInputElement).checked).toBe(true);
	});

	it("is nothing where everything is told", () => {
		asked({ sheets: [sheet()] } as Proposal);
		expect(screen.queryByRole("region", { name: "Questions" })).toBeNull();
	});
});

describe("bringing files", () => {
	const status = (more: object) => ({ id: "i1", total: 3, done: 3, imported: 3, aside: 0, message: "", ...more });
	const bring = (answers: Record<string, unknown>) => {
		const asked = answering(answers);
		const onClose = vi.fn();
		return { ...show(<BringFiles app={app} onClose={onClose} />), asked, onClose };
	};
	const link = { sheet: -1, table: "own", by: "", matched: 2, missing: 1, ambiguous: 0, unmatched: "create" };
	const tally = {
		sheets: [
			{
				records: 2,
				aside: 1,
				links: [{ column: "Owner", made: 2, empty: 1, added: 1 }],
				rows: [
					{ row: 2, cells: ["Tern", "ines"], values: ["Tern", "Ines"] },
					{ row: 3, cells: ["Auk", "x"], wrong: "Owner: Several are called so." },
				],
			},
		],
	};
	const none = { sheets: [] };
	const file = new File(["Name\nTern\n"], "boats.csv", { type: "text/csv" });

	/** A file that is sent has no JSON in it. */
	const uploading = (answers: Record<string, unknown>) => {
		const b = bring(answers);
		const answered = globalThis.fetch;
		vi.stubGlobal("fetch", (url: string, init: RequestInit = {}) =>
			init.body instanceof File
				? Promise.resolve(new Response(JSON.stringify({ id: `u-${init.body.name}` })))
				: answered(url, init),
		);
		return b;
	};

	it("takes the first row for data where its founder says so, and back", async () => {
		const { person, asked } = uploading({
			"POST /imports/propose": {
				sheets: [sheet(), sheet({ sheet: "b", names: "none", turned: true }), sheet({ sheet: "c", names: "own" })],
			},
			"POST /imports/tally": none,
		});
		await person.upload(screen.getByLabelText(/Drop files here/), file);
		await person.click(await screen.findByRole("button", { name: "The first row is data" }));
		const turned = () =>
			asked.filter((a) => a.path.endsWith("/propose")).map((a) => (a.body as { turned: number[] }).turned);
		await waitFor(() => expect(turned()).toEqual([[], [0, 1]]));
		const back = screen.getAllByRole("button", { name: "The first row names the columns" });
		expect(back).toHaveLength(1);
		await person.click(back[0] as HTMLElement);
		await waitFor(() => expect(turned()).toEqual([[], [0, 1], []]));
	});

	it("reads them, shows what it found, and imports when that is wanted", async () => {
		const { person, asked, onClose } = uploading({
			"POST /imports/propose": {
				sheets: [sheet({ columns: [column("Name"), column("Owner", { type: "link", link } as Partial<ColumnPlan>)] })],
			},
			"POST /imports/tally": tally,
			"POST /imports": { id: "i1" },
			"GET /imports/i1": status({ status: "done", message: "Imported 3 rows.", aside: 1 }),
		});
		await person.upload(screen.getByLabelText(/Drop files here/), file);
		expect(await screen.findByText(/Nothing changes until you import/)).toBeTruthy();
		expect(asked.some((a) => a.path.endsWith("/imports"))).toBe(false);
		const counts = await screen.findByRole("region", { name: "What will be imported" });
		await waitFor(() => expect(counts.textContent).toContain("Boats 2 records"));
		expect(counts.textContent).toContain("Owner → Owners: 2 links, 1 stays empty, 1 record is added there");
		expect(counts.textContent).toContain("1 row to fix later");
		await person.click(screen.getByRole("button", { name: "Show a sample" }));
		const rows = within(screen.getByRole("table")).getAllByRole("row");
		expect(rows.map((r) => r.textContent)).toEqual([
			"RowNameOwner",
			"2TernInesines",
			"3To fix: Owner: Several are called so.",
		]);
		await person.click(screen.getByRole("button", { name: "Import 3 rows" }));
		expect((await screen.findByText("Imported 3 rows.")).getAttribute("role")).toBe("status");
		expect(screen.getByText("1 row didn’t fit. Fix it under “Rows to fix”.")).toBeTruthy();
		const start = asked.find((a) => a.path.endsWith("/imports"));
		expect(start?.body).toMatchObject({ uploads: ["u-boats.csv"], proposal: { sheets: [{ name: "Boats" }], tally } });
		await person.click(screen.getAllByRole("button", { name: "Close" }).at(-1) as HTMLElement);
		expect(onClose).toHaveBeenCalled();
	});

	it("says what is wrong with a file, and that nothing happened", async () => {
		const { person } = uploading({ "POST /imports/propose": new Refusal(422, "boats.csv is empty.") });
		await person.upload(screen.getByLabelText(/Drop files here/), file);
		expect((await screen.findByRole("alert")).textContent).toBe("boats.csv is empty. Nothing was changed.");
	});

	it("has nothing to import where all sheets are left out", async () => {
		const { person } = uploading({
			"POST /imports/propose": { sheets: [sheet({ mode: "ignore" })] },
			"POST /imports/tally": none,
		});
		await person.upload(screen.getByLabelText(/Drop files here/), file);
		const go = (await screen.findByRole("button", { name: "Import 0 rows" })) as HTMLButtonElement;
		expect(go.disabled).toBe(true);
		await person.click(screen.getByRole("button", { name: "Other files" }));
		expect(screen.getByLabelText(/Drop files here/)).toBeTruthy();
	});

	it("can be stopped, and goes on without being watched", async () => {
		let stopped = false;
		const { person, asked } = uploading({
			"POST /imports/propose": { sheets: [sheet()] },
			"POST /imports/tally": none,
			"POST /imports": { id: "i1" },
			"GET /imports/i1": () =>
				stopped
					? status({ status: "cancelled", message: "The import was stopped." })
					: status({ status: "running", done: 1 }),
			"DELETE /imports/i1": () => {
				stopped = true;
			},
		});
		await person.upload(screen.getByLabelText(/Drop files here/), file);
		await person.click(await screen.findByRole("button", { name: "Import 3 rows" }));
		expect(await screen.findByText("1 of 3 rows")).toBeTruthy();
		expect(screen.getByRole("button", { name: "Continue in the background" })).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Stop" }));
		expect(await screen.findByText("The import was stopped.")).toBeTruthy();
		await waitFor(() => expect(asked.filter((a) => a.method === "DELETE")).toHaveLength(1));
	});
});
