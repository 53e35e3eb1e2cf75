import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { type Asked, answering, show } from "../../testing";
import type { Told } from "../api";
import { Walk } from "./Walk";
import { continueFrom, didWhat, roundsOf, stateAt, stepFrom } from "./walk";

const told = (step: string, more: Partial<Told> = {}): Told => ({
	step,
	sentence: `Do ${step}`,
	rounds: [],
	what: "did",
	looked: [],
	writes: [],
	micros: 1,
	...more,
});

const wrote = (record: string, kind: "added" | "changed" | "deleted", ...fields: [string, string, string][]) => ({
	record,
	table: "Boats",
	label: record,
	kind,
	fields: fields.map(([name, before, after]) => ({ name, before, after })),
});

const steps = [
	told("a", { made: { name: "new boat", shown: "Tern" }, writes: [wrote("tern", "added", ["Name", "", "Tern"])] }),
	told("b", { what: "passed over", looked: [{ name: "Length", shown: "" }] }),
	told("c", {
		writes: [wrote("tern", "changed", ["Length", "", "12"]), wrote("heron", "changed", ["Length", "9", "10"])],
	}),
	told("d", {
		writes: [wrote("heron", "changed", ["Length", "10", "11"])],
		mail: { to: ["a@b.example"], subject: "Hi", plain: "Yes" },
	}),
	told("e", { made: { name: "total", shown: "" } }),
];

/** What is marked in a workflow, as the server keeps it. */
function marking(flow: string) {
	let kept: unknown = { breakpoints: [], off: [], watches: [] };
	return answering({
		[`GET /workflows/${flow}/marks`]: () => kept,
		[`PUT /workflows/${flow}/marks`]: (a: Asked) => {
			kept = a.body;
			return kept;
		},
	});
}

describe("how things are at a step", () => {
	it("tells what is not yet made from what is empty", () => {
		expect(stateAt(steps, 0, false).known).toEqual([
			{ name: "new boat", fresh: false },
			{ name: "total", fresh: false },
		]);
		const after = stateAt(steps, 4, true).known;
		expect(after[0]).toEqual({ name: "new boat", shown: "Tern", fresh: false });
		expect(after[1]).toEqual({ name: "total", shown: "", fresh: true });
	});

	it("gathers what is written to a record, from what it held at first", () => {
		const at = stateAt(steps, 3, true);
		const heron = at.records.find((r) => r.record === "heron");
		expect(heron?.fields).toEqual([{ name: "Length", before: "9", after: "11", fresh: true }]);
		const tern = at.records.find((r) => r.record === "tern");
		expect(tern?.kind).toBe("added");
		expect(tern?.fields.map((f) => [f.name, f.after, f.fresh])).toEqual([
			["Name", "Tern", false],
			["Length", "12", false],
		]);
		expect(at.mails).toHaveLength(1);
		expect(stateAt(steps, 3, false).mails).toHaveLength(0);
	});

	it("says what a step did", () => {
		expect(steps.map(didWhat)).toEqual(["added tern", "passed over", "changed 2 records", "to a@b.example", "empty"]);
		expect(didWhat(told("f", { what: "left" }))).toBe("not taken");
		expect(didWhat(told("f", { found: 3 }))).toBe("found 3");
	});
});

describe("a walk", () => {
	it("goes by buttons and by arrow keys, before a step and after it", async () => {
		const person = userEvent.setup();
		marking("x");
		show(<Walk steps={steps} app="app" flow="x" />);
		expect(screen.getByText("1 of 5")).toBeTruthy();
		expect(screen.getByText("not yet made")).toBeTruthy();
		await person.click(screen.getByText("Forward"));
		expect(screen.getByText("Its condition looked at")).toBeTruthy();
		await person.keyboard("{ArrowDown}{End}");
		expect(screen.getByText("5 of 5")).toBeTruthy();
		expect(screen.queryByText("not yet made")).toBeNull();
		await person.click(screen.getByText("Before the step"));
		expect(screen.getByText("not yet made")).toBeTruthy();
		await person.keyboard("{Home}");
		expect(screen.getByText("Nothing is written so far.")).toBeTruthy();
	});

	it("begins where a run ended otherwise than it should", () => {
		marking("y");
		show(<Walk steps={steps} app="app" flow="y" error="The rules don’t let them." />);
		expect(screen.getByText("5 of 5")).toBeTruthy();
		expect(screen.getByText("The rules don’t let them.")).toBeTruthy();
		expect(screen.getByText("stopped here")).toBeTruthy();
	});
});

describe("walking in loops", () => {
	const loop = [
		told("each", { watched: ["0"] }),
		told("each", { what: "round", rounds: [0], watched: ["1"] }),
		told("in", { rounds: [0], watched: ["2"] }),
		told("each", { what: "round", rounds: [1], watched: ["3"] }),
		told("in", { rounds: [1], watched: ["4"] }),
		told("last", { watched: ["5"] }),
	];

	it("goes over, into and out of them", () => {
		expect(stepFrom(loop, 0, "over")).toBe(5);
		expect(stepFrom(loop, 0, "into")).toBe(1);
		expect(stepFrom(loop, 2, "over")).toBe(3);
		expect(stepFrom(loop, 2, "out")).toBe(5);
		expect(stepFrom(loop, 5, "into")).toBe(5);
	});

	it("continues to breakpoints, forwards and backwards", () => {
		const breaks = new Set(["in"]);
		expect(continueFrom(loop, 0, breaks, true)).toBe(2);
		expect(continueFrom(loop, 2, breaks, true)).toBe(4);
		expect(continueFrom(loop, 4, breaks, true)).toBe(5);
		expect(continueFrom(loop, 4, breaks, false)).toBe(2);
		expect(continueFrom(loop, 2, breaks, false)).toBe(0);
	});

	it("shows what is watched over the rounds", () => {
		expect(roundsOf(loop, 2, 0)).toEqual([
			{ round: 0, shown: "2" },
			{ round: 1, shown: "4" },
		]);
		expect(roundsOf(loop, 5, 0)).toEqual([]);
	});

	it("keeps breakpoints for the next time", async () => {
		const person = userEvent.setup();
		const asked = marking("loop");
		const first = show(<Walk steps={loop} app="app" flow="loop" watches={["made.n"]} />);
		await person.click(screen.getByText("Forward"));
		await person.keyboard("{F11}{F9}");
		expect(screen.getByText("Remove breakpoint")).toBeTruthy();
		await waitFor(() =>
			expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ breakpoints: ["in"], off: [], watches: [] }),
		);
		first.unmount();
		show(<Walk steps={loop} app="app" flow="loop" watches={["made.n"]} />);
		await person.click(await screen.findByText("Continue"));
		expect(screen.getByText("3 of 6")).toBeTruthy();
		expect(screen.getByText("round 2: 4")).toBeTruthy();
		await person.keyboard("{F5}");
		expect(screen.getByText("5 of 6")).toBeTruthy();
		await person.keyboard("{Shift>}{F5}{/Shift}");
		expect(screen.getByText("3 of 6")).toBeTruthy();
		await person.click(screen.getByText("Switch it off"));
		expect(screen.queryByText("Continue")).toBeNull();
		expect(screen.getAllByLabelText("Breakpoint, switched off")).toHaveLength(2);
		await person.click(screen.getByText("Switch all on"));
		await person.click(screen.getByText("Continue"));
		expect(screen.getByText("5 of 6")).toBeTruthy();
		await person.keyboard("{Shift>}{F9}{/Shift}");
		await waitFor(() =>
			expect(asked.filter((a) => a.method === "PUT").at(-1)?.body).toEqual({
				breakpoints: ["in"],
				off: ["in"],
				watches: [],
			}),
		);
		await person.click(screen.getByText("Remove all"));
		expect(screen.queryByText("Switch all on")).toBeNull();
	});
});
