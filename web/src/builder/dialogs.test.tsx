import { screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { answering, Refusal, show } from "../testing";
import { AddRecord } from "./AddRecord";
import type { Plan } from "./api";
import { Leftovers } from "./bring/Leftovers";
import { BinPanel } from "./grid/BinPanel";
import { ConflictDialog } from "./grid/ConflictDialog";
import { WhoSees } from "./grid/WhoSees";
import { HistoryPanel } from "./HistoryPanel";
import { PublishStop } from "./PublishStop";
import { ProposeRules } from "./people/ProposeRules";
import { app, crew, field } from "./sample";
import { Workshop } from "./Workshop";

const plan = (more: Partial<Plan> = {}): Plan => ({
	first: false,
	revision: 7,
	liveVersion: 1,
	differences: [],
	steps: [],
	draft: 0,
	...more,
});

describe("publishing", () => {
	it("says that there is nothing to publish", async () => {
		answering({ "GET /plan": plan(), "GET /versions": [] });
		show(<PublishStop app={app()} />);
		expect(
			await screen.findByText("The draft and the live app are the same. There is nothing to publish."),
		).toBeTruthy();
		expect(await screen.findByText("Nothing is published yet.")).toBeTruthy();
		expect(screen.queryByRole("button", { name: "Publish" })).toBeNull();
	});

	it("tells a new table as one change, with all that it says", async () => {
		answering({
			"GET /plan": plan({
				differences: [
					{ where: "Suppliers", after: "Suppliers", lines: ["Each record’s label is Name.", "Name is text."] },
					{ where: "Piers", before: "Piers", lines: ["Length is a number."] },
				],
			}),
			"GET /versions": [],
		});
		show(<PublishStop app={app()} />);
		const fresh = (await screen.findByText("Suppliers: new")).closest("li") as HTMLElement;
		expect(within(fresh).getAllByRole("listitem")).toHaveLength(2);
		expect(within(fresh).getByText("Name is text.").tagName).toBe("INS");
		const gone = screen.getByText("Piers: removed").closest("li") as HTMLElement;
		expect(within(gone).getByText("Length is a number.").tagName).toBe("DEL");
	});

	it("publishes what loses values only when that is understood", async () => {
		const asked = answering({
			"GET /plan": plan({
				differences: [{ where: "Boats", before: "Length is a number." }],
				steps: [
					{
						text: "Removes Length from Boats. 1 record has a value in it, which is hidden.",
						count: 1,
						loss: true,
						stop: false,
						opens: false,
						samples: ["12"],
					},
				],
			}),
			"GET /versions": [],
			"POST /publish": { version: 2 },
		});
		const { person } = show(<PublishStop app={app()} />);
		const publish = (await screen.findByRole("button", { name: "Publish" })) as HTMLButtonElement;
		expect(publish.disabled).toBe(true);
		expect(screen.getByText(/For example: “12”/)).toBeTruthy();
		await person.click(screen.getByLabelText("I understand that these values will be hidden"));
		await person.click(publish);
		await waitFor(() =>
			expect(asked.find((a) => a.path.endsWith("/publish"))?.body).toEqual({
				revision: 7,
				liveVersion: 1,
				accept: true,
				bringRecords: false,
			}),
		);
	});

	it("does not publish what has to be fixed first", async () => {
		const difference = { where: "Boats", after: "Name is text, no duplicates." };
		answering({
			"GET /plan": plan({
				differences: [difference],
				steps: [{ text: "2 values are in several records.", count: 2, loss: false, stop: true, opens: false }],
			}),
			"GET /versions": [],
		});
		show(<PublishStop app={app()} />);
		expect(((await screen.findByRole("button", { name: "Publish" })) as HTMLButtonElement).disabled).toBe(true);
		expect(screen.getByText("Fix this before you publish.")).toBeTruthy();
	});

	it("copies the draft's records along at first, in words that count", async () => {
		answering({ "GET /plan": plan({ first: true, liveVersion: 0, draft: 1 }), "GET /versions": [] });
		show(<PublishStop app={app({ liveVersion: 0 })} />);
		expect(await screen.findByText("Copy the draft’s 1 record to the live app")).toBeTruthy();
		expect(screen.getByText(/1 table, 1 role and 0 pages/)).toBeTruthy();
	});

	it("lists versions, and goes back to one", async () => {
		const version = (number: number, live: boolean) => ({
			number,
			at: "2026-05-01T10:00:00Z",
			by: "Ann",
			live,
			differences: [{ where: "x" }],
		});
		const asked = answering({
			"GET /plan": plan({ differences: [{ where: "Boats", after: "x" }] }),
			"GET /versions": [version(2, true), version(1, false)],
		});
		const { person } = show(<PublishStop app={app({ liveVersion: 2 })} />);
		expect(await screen.findByText(/by Ann, 1 change/)).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Go back to version 1" }));
		const dialog = await screen.findByRole("dialog", { name: "Go back to version 1" });
		expect(await within(dialog).findByRole("button", { name: "Go back to version 1" })).toBeTruthy();
		expect(asked.some((a) => a.path.endsWith("/plan") && a.query.get("version") === "1")).toBe(true);
	});

	it("is for editors", async () => {
		answering({ "GET /plan": plan({ differences: [{ where: "Boats", after: "x" }] }), "GET /versions": [] });
		show(<PublishStop app={app({ member: "viewer" })} />);
		expect(await screen.findByText("Only editors and owners can publish.")).toBeTruthy();
	});
});

describe("a conflict", () => {
	it("shows both values, and uses the one that is chosen", async () => {
		const writes = { change: vi.fn(), texts: vi.fn(), remove: vi.fn() };
		const close = vi.fn();
		const row = (name: string) => ({ id: "r1", revision: 2, name });
		const conflict = { column: field("name", "Name"), mine: "Mine", was: row("Before"), now: row("Theirs") };
		const { person } = show(<ConflictDialog conflict={conflict} writes={writes} onClose={close} />);
		for (const words of ["Before", "Theirs", "Mine"]) expect(screen.getByText(words)).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Use mine" }));
		expect(writes.change).toHaveBeenCalledWith(conflict.now, conflict.column, "Mine", conflict.was);
		await person.click(screen.getByRole("button", { name: "Keep theirs" }));
		expect(close).toHaveBeenCalledTimes(2);
		expect(writes.change).toHaveBeenCalledTimes(1);
	});
});

describe("adding a record", () => {
	const fields = [
		field("name", "Name", { required: true }),
		field("length", "Length"),
		field("made", "Made", { entered: false }),
	];
	it("asks for what is entered, and marks what is wrong", async () => {
		answering({
			"POST /records": new Refusal(422, "Nothing is saved yet. Check the marked answers.", [
				{ location: "name", message: "Fill in Name." },
			]),
		});
		const { person } = show(
			<AddRecord app="a1" table="boat" word="a boat" fields={fields} as="founder" onClose={() => {}} />,
		);
		const dialog = await screen.findByRole("dialog", { name: "Add a boat" });
		expect(within(dialog).queryByLabelText(/Made/)).toBeNull();
		await person.click(within(dialog).getByRole("button", { name: "Add" }));
		expect(await screen.findByText("Fill in Name.")).toBeTruthy();
	});
	it("closes when it is added", async () => {
		const close = vi.fn();
		const asked = answering({ "POST /records": { row: { id: "r1" } } });
		const { person } = show(
			<AddRecord app="a1" table="boat" word="a boat" fields={fields} as="founder" onClose={close} />,
		);
		await person.type(await screen.findByLabelText("Name"), "Tern");
		await person.click(screen.getByRole("button", { name: "Add" }));
		await waitFor(() => expect(close).toHaveBeenCalled());
		expect(asked[0]?.body).toEqual({ values: { name: "Tern" } });
	});
});

describe("the bin", () => {
	it("restores a record, and is emptied only after asking", async () => {
		const asked = answering({
			"GET /bin": { rows: [{ id: "r1", label: "Tern" }], more: false },
			"POST /restore": { row: {} },
			"DELETE /bin": { done: 1, wrong: [] },
		});
		const { person } = show(<BinPanel app="a1" table="boat" name="Boats" onClose={() => {}} />);
		await person.click(await screen.findByRole("button", { name: "Restore" }));
		await waitFor(() => expect(asked.some((a) => a.path.endsWith("/records/r1/restore"))).toBe(true));
		await person.click(screen.getByRole("button", { name: "Empty bin" }));
		expect(asked.some((a) => a.method === "DELETE")).toBe(false);
		await person.click(screen.getByRole("button", { name: "Delete permanently" }));
		await waitFor(() => expect(asked.some((a) => a.method === "DELETE")).toBe(true));
	});
	it("says what it is for while it is empty", async () => {
		answering({ "GET /bin": { rows: [], more: false } });
		show(<BinPanel app="a1" table="boat" name="Boats" onClose={() => {}} />);
		expect(await screen.findByText(/Deleted records come here/)).toBeTruthy();
	});
});

describe("who can see a record", () => {
	it("tells each role, with its rule and who of it", async () => {
		const role = (name: string, more: object) => ({
			role: name,
			name,
			reach: "where",
			values: [],
			people: [],
			tried: 0,
			more: false,
			...more,
		});
		answering({
			"GET /who": {
				roles: [
					role("Crew", { reach: "all" }),
					role("Guests", { reach: "none" }),
					role("Owners", {
						rule: "Owner is the signed-in person",
						values: [{ name: "Owner", value: "Ines" }],
						people: ["Ines"],
						tried: 40,
					}),
					role("Others", { rule: "x", tried: 40, more: true }),
				],
			},
		});
		show(<WhoSees app="a1" table="boat" record="r1" />);
		expect(await screen.findByText(/all can see it/)).toBeTruthy();
		expect(screen.getByText(/no rule covers this table/)).toBeTruthy();
		expect(screen.getByText(/1 of 40 can see it\./)).toBeTruthy();
		expect(screen.getByText(/Here, Owner is Ines\./)).toBeTruthy();
		expect(screen.getByText(/none of 40 can see it\./)).toBeTruthy();
		expect(screen.getByText("We checked the first 40.")).toBeTruthy();
	});
});

describe("proposed rules", () => {
	it("adds those that are chosen", async () => {
		const rule = (text: string, adds = false) => ({ text, adds, changes: [{ kind: "set", of: text }] });
		const asked = answering({
			"GET /proposal": {
				rules: [rule("Crew can see Boats"), rule("Crew can change Boats"), rule("Crew can add Boats", true)],
			},
			"POST /changes": { revision: 8, added: [], sentences: [] },
		});
		const close = vi.fn();
		const { person } = show(<ProposeRules app={app()} role={crew} onClose={close} />);
		expect(await screen.findByRole("dialog", { name: "Rules for Crew" })).toBeTruthy();
		await person.click(await screen.findByLabelText("Crew can change Boats."));
		expect((screen.getByLabelText("Crew can add Boats.") as HTMLInputElement).checked).toBe(false);
		await person.click(screen.getByRole("button", { name: "Add 1 rule" }));
		await waitFor(() =>
			expect(asked.find((a) => a.path.endsWith("/changes"))?.body).toEqual({
				changes: [{ kind: "set", of: "Crew can see Boats" }],
			}),
		);
	});
	it("says that there are none", async () => {
		answering({ "GET /proposal": { rules: [] } });
		show(<ProposeRules app={app()} role={crew} onClose={() => {}} />);
		expect(await screen.findByText(/No rules to propose/)).toBeTruthy();
	});
});

describe("rows to fix", () => {
	const read = {
		"GET /leftovers": { imports: [{ import: "i1", rows: 1, at: "2026-05-01T10:00:00Z", by: "Ann" }] },
		"GET /leftovers/i1": {
			sheets: [{ sheet: 0, name: "Boats", headers: ["Name", "Length"], used: [true, true] }],
			rows: [{ id: 5, sheet: 0, row: 3, reason: "Length: “long” is not a number.", cells: ["Tern", "long"] }],
		},
	};
	it("are fixed and tried again", async () => {
		let asked: ReturnType<typeof answering> = [];
		asked = answering({ ...read, "POST /retry": { done: 0 } });
		const { person } = show(<Leftovers app="a1" onClose={() => {}} />);
		const cell = await screen.findByLabelText("Length of row 3");
		await person.clear(cell);
		await person.type(cell, "12");
		await person.click(screen.getByRole("button", { name: "Try again" }));
		expect(await screen.findByText("No row fits yet. See what is wrong beside each.")).toBeTruthy();
		expect(asked.find((a) => a.path.endsWith("/retry"))?.body).toEqual({ rows: [{ id: 5, cells: ["Tern", "12"] }] });
	});
	it("are discarded only after asking", async () => {
		const asked = answering({ ...read, "POST /drop": undefined });
		const { person } = show(<Leftovers app="a1" onClose={() => {}} />);
		await person.click(await screen.findByRole("button", { name: "Discard rows" }));
		const dialog = await screen.findByRole("dialog", { name: "Discard rows" });
		expect(within(dialog).getByText("This discards 1 row that was not imported. You can’t undo this.")).toBeTruthy();
		await person.click(within(dialog).getByRole("button", { name: "Cancel" }));
		expect(asked.some((a) => a.path.endsWith("/drop"))).toBe(false);
	});
});

describe("the list of changes", () => {
	it("tells who did what, and what was undone", async () => {
		answering({
			"GET /history": [
				{ id: 2, by: "Ann", at: "2026-05-01T10:00:00Z", sentences: ["Added Masts"], undone: true },
				{ id: 1, by: "Ben", at: "2026-05-01T09:00:00Z", sentences: ["Renamed Boats to Ships"], undone: false },
			],
		});
		show(<HistoryPanel app="a1" onClose={() => {}} />);
		expect(await screen.findByText("Added Masts.")).toBeTruthy();
		expect(screen.getByText(/undone, Ann/)).toBeTruthy();
		expect(screen.getByText(/^Ben/)).toBeTruthy();
	});
});

describe("the workshop", () => {
	const one = {
		id: "a1",
		slug: "yard",
		name: "Yard",
		theme: "Harbour",
		tables: 1,
		pages: 2,
		liveVersion: 0,
		changed: false,
		createdAt: "2026-05-01T10:00:00Z",
		workspace: "w1",
		member: "owner",
	};
	const session = { name: "Ann", email: "ann@yard.example", mailbox: false, workspaces: [] };
	it("lists apps in words that count, and says what is to publish", async () => {
		answering({
			"GET /session": session,
			"GET /apps": [one, { ...one, id: "a2", name: "Loft", liveVersion: 3, changed: true, member: "viewer" }],
		});
		show(<Workshop />);
		expect((await screen.findAllByText(/1 table, 2 pages, created/)).length).toBe(2);
		expect(screen.getByText("Not published")).toBeTruthy();
		expect(screen.getByText("Changes to publish")).toBeTruthy();
		expect(screen.getByText(/you are viewer/)).toBeTruthy();
		expect(document.title).toBe("Workshop – Pine Gate");
	});
	it("says what an app is for while there is none", async () => {
		answering({ "GET /session": session, "GET /apps": [] });
		show(<Workshop />);
		expect(await screen.findByText("No apps yet")).toBeTruthy();
		expect(screen.getByRole("button", { name: "Create your first app" })).toBeTruthy();
	});
	it("deletes an app only when its name is typed", async () => {
		const asked = answering({ "GET /session": session, "GET /apps": [one], "DELETE /apps/a1": undefined });
		const { person } = show(<Workshop />);
		await person.click(await screen.findByRole("button", { name: "Delete Yard" }));
		const del = (await screen.findByRole("button", { name: "Delete permanently" })) as HTMLButtonElement;
		expect(del.disabled).toBe(true);
		await person.type(screen.getByLabelText("Type its name to confirm"), "Yard");
		await person.click(del);
		await waitFor(() => expect(asked.some((a) => a.method === "DELETE")).toBe(true));
	});
});
