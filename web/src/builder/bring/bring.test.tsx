import { screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { answering, Holding, Refusal, show } from "../../testing";
import type { AppOut, ColumnPlan, SheetPlan as Plan, Proposal } from "../api";
import { BringFiles } from "./BringFiles";
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

const sheet = (more: Partial<Plan> = {}): Plan =>
	({
		file: "boats.csv",
		sheet: "boats",
		name: "Boats",
		mode: "new",
		rows: 3,
		notes: ["The first row has the names."],
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
	it("takes another type, or none", async () => {
		const { person, latest } = planned(sheet());
		await person.selectOptions(screen.getByLabelText("What Name becomes"), "a phone number");
		expect(latest.value.columns[0]).toMatchObject({ type: "phone", skip: false });
		await person.selectOptions(screen.getByLabelText("What Name becomes"), "leave out");
		expect(latest.value.columns[0]?.skip).toBe(true);
		expect(screen.getByText("Not imported.")).toBeTruthy();
	});

	it("is a choice only where few values come again", async () => {
		planned(sheet({ columns: [column("Name"), column("Kind", { choices: ["Yacht", "Dinghy"] })] }));
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
		expect(screen.getByRole("option", { name: "links to People" })).toBeTruthy();
		expect(screen.queryByLabelText("Values in Crew that don’t match")).toBeNull();
	});

	it("of dates that can be read in two ways asks which", async () => {
		const { person, latest } = planned(
			sheet({
				columns: [
					column("Day", { type: "date", ask: "Which comes first?", format: { order: "day" } } as Partial<ColumnPlan>),
				],
			}),
		);
		await person.selectOptions(screen.getByLabelText("Dates in Day"), "month first");
		expect(latest.value.columns[0]).toMatchObject({ format: { order: "month" }, ask: undefined });
		expect(screen.queryByText("Which comes first?")).toBeNull();
	});
});

describe("bringing files", () => {
	const status = (more: object) => ({ id: "i1", total: 3, done: 3, imported: 3, aside: 0, message: "", ...more });
	const bring = (answers: Record<string, unknown>) => {
		const asked = answering(answers);
		const onClose = vi.fn();
		return { ...show(<BringFiles app={app} onClose={onClose} />), asked, onClose };
	};
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

	it("reads them, shows what it found, and imports when that is wanted", async () => {
		const { person, asked, onClose } = uploading({
			"POST /imports/propose": { sheets: [sheet()] },
			"POST /imports": { id: "i1" },
			"GET /imports/i1": status({ status: "done", message: "Imported 3 rows.", aside: 1 }),
		});
		await person.upload(screen.getByLabelText(/Drop files here/), file);
		expect(await screen.findByText(/Nothing changes until you import/)).toBeTruthy();
		expect(asked.some((a) => a.path.endsWith("/imports"))).toBe(false);
		await person.click(screen.getByRole("button", { name: "Import 3 rows" }));
		expect((await screen.findByText("Imported 3 rows.")).getAttribute("role")).toBe("status");
		expect(screen.getByText("1 row didn’t fit. Fix it under “Rows to fix”.")).toBeTruthy();
		const start = asked.find((a) => a.path.endsWith("/imports"));
		expect(start?.body).toMatchObject({ uploads: ["u-boats.csv"], proposal: { sheets: [{ name: "Boats" }] } });
		await person.click(screen.getAllByRole("button", { name: "Close" }).at(-1) as HTMLElement);
		expect(onClose).toHaveBeenCalled();
	});

	it("says what is wrong with a file, and that nothing happened", async () => {
		const { person } = uploading({ "POST /imports/propose": new Refusal(422, "boats.csv is empty.") });
		await person.upload(screen.getByLabelText(/Drop files here/), file);
		expect((await screen.findByRole("alert")).textContent).toBe("boats.csv is empty. Nothing was changed.");
	});

	it("has nothing to import where all sheets are left out", async () => {
		const { person } = uploading({ "POST /imports/propose": { sheets: [sheet({ mode: "ignore" })] } });
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
