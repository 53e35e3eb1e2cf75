import { screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { Row, Value } from "../../shared/fields/values";
import { answering, Holding, Refusal, show } from "../../testing";
import type { AppOut, FieldOut, ViewOut, ViewSettings } from "../api";
import { field } from "../sample";
import { CellEditor } from "./CellEditor";
import { ConflictDialog } from "./ConflictDialog";
import { OrderPicker } from "./OrderPicker";
import { RecordPanel } from "./RecordPanel";
import { Totals } from "./Totals";
import { ViewPicker } from "./ViewPicker";
import { plain, useView } from "./view";
import { type GridWrites, useWrites } from "./writes";

const fields = [
	field("name", "Name"),
	field("length", "Length", { type: "number", kind: "number" }),
	field("kind", "Kind", {
		type: "choice",
		kind: "choice",
		choices: [
			{ id: "k1", label: "Yacht" },
			{ id: "k2", label: "Dinghy" },
		],
		sortColumns: [{ id: "rate", label: "Rate" }],
	} as Partial<FieldOut>),
	field("crew", "Crew", { type: "links", kind: "record", many: true } as Partial<FieldOut>),
	field("total", "Total", { type: "formula", kind: "number", entered: false }),
];

const row: Row = { id: "1", revision: 3, label: "Tern", name: "Tern", length: "12.5", kind: "k1", total: "25" };
const app = { id: "a1", tables: [], roles: [] } as unknown as AppOut;

describe("the order of records", () => {
	function order(more: Partial<ViewSettings> = {}) {
		const latest = { value: { ...plain, ...more } };
		const shown = show(
			<Holding latest={latest}>
				{(settings, change) => <OrderPicker fields={fields} settings={settings} onChange={change} />}
			</Holding>,
		);
		return { ...shown, latest };
	}

	it("groups by a field of one value", async () => {
		const { person, latest } = order();
		expect(within(screen.getByLabelText("Group by")).queryByRole("option", { name: "Crew" })).toBeNull();
		await person.selectOptions(screen.getByLabelText("Group by"), "Kind");
		expect(latest.value.group).toBe("kind");
	});

	it("sorts by several, each in its own direction, and by a column of a choice list", async () => {
		const { person, latest } = order();
		expect(screen.getByText("In the order added.")).toBeTruthy();
		await person.selectOptions(screen.getByLabelText("Sort by"), "Rate in Kind");
		await person.selectOptions(screen.getByLabelText("Then by"), "Name");
		expect(latest.value.sort).toBe("kind.rate,name");
		await person.selectOptions(screen.getAllByLabelText("Direction")[1] as HTMLElement, "largest first");
		expect(latest.value.sort).toBe("kind.rate,-name");
		expect(within(screen.getByLabelText("Then by")).queryByRole("option", { name: "Name" })).toBeNull();
		await person.click(screen.getByRole("button", { name: "Stop sorting by Rate in Kind" }));
		expect(latest.value.sort).toBe("-name");
	});
});

function Viewed() {
	const state = useView("a1", "boat");
	return (
		<>
			<output>{state.settings.filter || "no filter"}</output>
			<button type="button" onClick={() => state.change({ ...state.settings, filter: "sold" })}>
				look otherwise
			</button>
			<ViewPicker app="a1" table="boat" name="Boats" state={state} />
		</>
	);
}

describe("views that are kept", () => {
	const view = (more: Partial<ViewOut> = {}): ViewOut =>
		({
			id: "v1",
			name: "Yachts",
			shared: false,
			mine: true,
			settings: { ...plain, filter: 'kind = "Yacht"' },
			...more,
		}) as ViewOut;

	function picker(answers: Record<string, unknown>) {
		localStorage.clear();
		const asked = answering({ "GET /views": { views: [view()] }, ...answers });
		return { ...show(<Viewed />), asked };
	}

	it("are chosen, changed and saved", async () => {
		const { person, asked } = picker({ "PUT /views/v1": view() });
		await person.click(await screen.findByRole("button", { name: /Yachts/ }));
		expect(screen.getByRole("status").textContent).toBe('kind = "Yacht"');
		expect(screen.queryByRole("button", { name: "Save changes" })).toBeNull();
		await person.click(screen.getByRole("button", { name: "look otherwise" }));
		await person.click(screen.getByRole("button", { name: "Discard changes" }));
		expect(screen.getByRole("status").textContent).toBe('kind = "Yacht"');
		await person.click(screen.getByRole("button", { name: "look otherwise" }));
		await person.click(screen.getByRole("button", { name: "Save changes" }));
		await waitFor(() => expect(asked.find((a) => a.method === "PUT")?.body.settings.filter).toBe("sold"));
	});

	it("are made of what one looks at, for oneself or for all", async () => {
		const { person, asked } = picker({ "POST /tables/boat/views": view({ id: "v2", name: "Sold", shared: true }) });
		const save = (await screen.findByRole("button", { name: "Save view" })) as HTMLButtonElement;
		expect(save.disabled).toBe(true);
		await person.click(screen.getByRole("button", { name: "look otherwise" }));
		await person.type(screen.getByLabelText("Name of the view"), "Sold");
		await person.click(screen.getByLabelText("For everyone who builds this app"));
		await person.click(save);
		await waitFor(() =>
			expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({
				name: "Sold",
				shared: true,
				settings: { filter: "sold" },
			}),
		);
	});

	it("are deleted when that is confirmed", async () => {
		const { person, asked } = picker({ "DELETE /views/v1": undefined });
		await person.click(await screen.findByRole("button", { name: /Yachts/ }));
		await person.click(screen.getByRole("button", { name: "Delete view" }));
		const dialog = await screen.findByRole("dialog");
		expect(dialog.textContent).toContain("Records stay as they are.");
		await person.click(within(dialog).getByRole("button", { name: "Delete" }));
		await waitFor(() => expect(asked.filter((a) => a.method === "DELETE")).toHaveLength(1));
		await waitFor(() => expect(screen.getByRole("status").textContent).toBe("no filter"));
	});
});

describe("totals", () => {
	const asked = { as: "founder", search: "", filter: "" };

	it("are for each value of a field, a choice at first", async () => {
		const made = answering({
			"GET /tables/boat/totals": {
				groups: [
					{ group: "k1", count: 40, length: "500.5", total: "1000" },
					{ group: null, count: 2, length: null, total: null },
				],
			},
		});
		const { person } = show(
			<Totals app="a1" table="boat" name="Boats" columns={fields} asked={asked} onClose={() => {}} />,
		);
		const yachts = (await screen.findByText("Yacht")).closest("tr") as HTMLElement;
		expect(yachts.textContent).toContain("40");
		expect(yachts.textContent).toContain("500.5");
		expect((screen.getByText("Empty").closest("tr") as HTMLElement).textContent).toContain("2");
		expect(made[0]?.query.get("group")).toBe("kind");
		await person.selectOptions(screen.getByLabelText("For each"), "Name");
		await waitFor(() => expect(made.at(-1)?.query.get("group")).toBe("name"));
	});

	it("say what went wrong", async () => {
		answering({ "GET /totals": new Refusal(422, "This takes too long.") });
		show(<Totals app="a1" table="boat" name="Boats" columns={fields} asked={asked} onClose={() => {}} />);
		expect(await screen.findByText("This takes too long.")).toBeTruthy();
	});
});

describe("a cell", () => {
	function cell(column: FieldOut, start?: string) {
		const saved: [Value, string | undefined][] = [];
		const onLeave = vi.fn();
		answering({});
		const shown = show(
			<>
				<CellEditor
					app="a1"
					as="founder"
					column={column}
					row={row}
					start={start}
					onSave={(v, _, then) => saved.push([v, then])}
					onLeave={onLeave}
				/>
				<button type="button">elsewhere</button>
			</>,
		);
		return { ...shown, saved, onLeave };
	}
	const name = fields[0] as FieldOut;

	it("is kept by Enter and goes down, by Tab and goes right", async () => {
		const down = cell(name);
		await down.person.type(screen.getByRole("textbox"), " II{Enter}");
		expect(down.saved).toEqual([["Tern II", "down"]]);
		down.unmount();
		const right = cell(name);
		await right.person.type(screen.getByRole("textbox"), "!{Tab}");
		expect(right.saved).toEqual([["Tern!", "right"]]);
	});

	it("is left as it was by Escape, once", async () => {
		const { person, saved, onLeave } = cell(name);
		await person.type(screen.getByRole("textbox"), "x{Escape}");
		expect(onLeave).toHaveBeenCalledTimes(1);
		await person.click(screen.getByRole("button", { name: "elsewhere" }));
		expect(saved).toEqual([]);
	});

	it("is kept when somebody goes elsewhere, once", async () => {
		const { person, saved } = cell(name);
		await person.type(screen.getByRole("textbox"), "!");
		await person.click(screen.getByRole("button", { name: "elsewhere" }));
		expect(saved).toEqual([["Tern!", undefined]]);
	});

	it("begins with what was typed", () => {
		cell(name, "A");
		expect((screen.getByRole("textbox") as HTMLInputElement).value).toBe("A");
	});

	it("of a choice is kept at once", async () => {
		const { person, saved } = cell(fields[2] as FieldOut);
		await person.selectOptions(screen.getByRole("combobox"), "Dinghy");
		expect(saved).toEqual([["k2", undefined]]);
	});
});

describe("a record beside the grid", () => {
	const writes = (): GridWrites => ({ change: vi.fn(), texts: vi.fn(), remove: vi.fn() });
	const panel = (answers: Record<string, unknown> = {}, as = "founder") => {
		const w = writes();
		const asked = answering({ "GET /records/1": { row }, ...answers });
		const onClose = vi.fn();
		const shown = show(
			<RecordPanel app={app} table="boat" record="1" fields={fields} as={as} writes={w} onClose={onClose} />,
		);
		return { ...shown, w, asked, onClose };
	};

	it("shows all fields, and changes those that are entered", async () => {
		const { person, w } = panel();
		expect(await screen.findByRole("heading", { name: "Tern" })).toBeTruthy();
		expect(screen.queryByRole("button", { name: "Change Total" })).toBeNull();
		await person.click(screen.getByRole("button", { name: "Change Name" }));
		await person.type(screen.getByRole("textbox"), " II{Enter}");
		expect(w.change).toHaveBeenCalledWith(expect.objectContaining({ id: "1" }), fields[0], "Tern II");
	});

	it("does not write what was not changed", async () => {
		const { person, w } = panel();
		await person.click(await screen.findByRole("button", { name: "Change Name" }));
		await person.keyboard("{Enter}");
		expect(w.change).not.toHaveBeenCalled();
	});

	const versions = [
		{
			id: 3,
			madeBy: "Ann",
			madeAt: "2026-05-03T10:00:00Z",
			did: "changed",
			before: { name: "Auk" },
			after: { name: "Tern" },
		},
		{ id: 1, madeBy: "Ben", madeAt: "2026-05-01T10:00:00Z", did: "added", before: null, after: { name: "Auk" } },
	];

	it("tells its past, and restores an older version", async () => {
		const { person, asked } = panel({ "GET /records/1/history": { versions }, "POST /bring-back": { row } });
		await person.click(await screen.findByRole("tab", { name: "History" }));
		expect((await screen.findByText("Ann")).closest("li")?.textContent).toContain("changed it");
		expect(screen.getByText("Auk").tagName).toBe("S");
		const back = screen.getAllByRole("button", { name: "Restore this version" });
		expect(back).toHaveLength(1);
		await person.click(back[0] as HTMLElement);
		await waitFor(() =>
			expect(asked.find((a) => a.path.endsWith("/bring-back"))?.body).toEqual({ version: 1, revision: 3 }),
		);
	});

	it("restores nothing for somebody who only looks as another", async () => {
		const { person } = panel({ "GET /records/1/history": { versions } }, "role.crew");
		await person.click(await screen.findByRole("tab", { name: "History" }));
		await screen.findByText("Ann");
		expect(screen.queryByRole("button", { name: "Restore this version" })).toBeNull();
	});

	it("says that it is gone", async () => {
		panel({ "GET /records/1": new Refusal(404, "This record is no longer there.") });
		expect(await screen.findByText("This record is no longer there.")).toBeTruthy();
	});
});

function Written() {
	const { writes, wrong, conflict } = useWrites("a1", "boat", "founder");
	return (
		<>
			<button type="button" onClick={() => writes.change(row, fields[0] as FieldOut, "Mine")}>
				change
			</button>
			<button
				type="button"
				onClick={() =>
					writes.texts(
						[
							{ row, texts: { length: "x" } },
							{ row: { ...row, id: "2" }, texts: { length: "7" } },
						],
						"paste",
					)
				}
			>
				paste
			</button>
			<button type="button" onClick={() => writes.texts([], "paste")}>
				paste nothing
			</button>
			<button type="button" onClick={() => writes.remove([row])}>
				delete
			</button>
			<output>{conflict ? `${String(conflict.mine)} or ${String(conflict.now.name)}` : [...wrong].join(" ")}</output>
		</>
	);
}

/** A conflict about links, of which the record has more by now than are shown. */
function Contested() {
	const { writes } = useWrites("a1", "boat", "founder");
	const links = { ...(fields[0] as FieldOut), id: "crew", type: "links", kind: "record", many: true };
	const listed = (...ids: string[]) => ids.map((id) => ({ id, label: id }));
	const was = { ...row, crew: listed("1", "2", "3"), "crew~": 40 };
	const now = { ...row, revision: 4, crew: listed("1", "3", "4"), "crew~": 39 };
	return (
		<ConflictDialog conflict={{ column: links, mine: ["2", "3", "9"], was, now }} writes={writes} onClose={() => {}} />
	);
}

describe("writes of the grid", () => {
	it("remove of links what was removed, and not what came up meanwhile", async () => {
		const asked = answering({ "PATCH /records/1": { row } });
		const { person } = show(<Contested />);
		await person.click(await screen.findByRole("button", { name: "Use mine" }));
		await waitFor(() =>
			expect(asked[0]?.body).toEqual({ revision: 4, values: { crew: { added: ["9"], removed: ["1"] } } }),
		);
	});

	function grid(answers: Record<string, unknown>) {
		const asked = answering(answers);
		return { ...show(<Written />), asked };
	}

	it("send the revision that was looked at", async () => {
		const { person, asked } = grid({ "PATCH /records/1": { row } });
		await person.click(screen.getByRole("button", { name: "change" }));
		await waitFor(() => expect(asked[0]?.body).toEqual({ revision: 3, values: { name: "Mine" } }));
	});

	it("ask what to do where somebody else changed the same", async () => {
		const { person } = grid({
			"PATCH /records/1": new Refusal(409, "This record was changed meanwhile."),
			"GET /records/1": { row: { ...row, name: "Theirs", revision: 4 } },
		});
		await person.click(screen.getByRole("button", { name: "change" }));
		await waitFor(() => expect(screen.getByRole("status").textContent).toBe("Mine or Theirs"));
	});

	it("mark the cells that do not fit", async () => {
		const { person, asked } = grid({
			"POST /bulk": { done: 0, wrong: [{ row: 0, field: "length", message: "This is no number." }] },
		});
		await person.click(screen.getByRole("button", { name: "paste nothing" }));
		expect(asked).toHaveLength(0);
		await person.click(screen.getByRole("button", { name: "paste" }));
		await waitFor(() => expect(screen.getByRole("status").textContent).toBe("1 length,This is no number."));
		expect(asked[0]?.body).toMatchObject({
			what: "paste",
			edits: [{ record: "1", revision: 3, texts: { length: "x" } }, { record: "2" }],
		});
	});

	it("delete what was looked at", async () => {
		const { person, asked } = grid({ "POST /bulk": { done: 1, wrong: [] } });
		await person.click(screen.getByRole("button", { name: "delete" }));
		await waitFor(() =>
			expect(asked[0]?.body).toEqual({ what: "delete", edits: [{ record: "1", revision: 3, delete: true }] }),
		);
	});
});
