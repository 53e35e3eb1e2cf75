import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { show } from "../../testing";
import type { Told } from "../api";
import { Walk } from "./Walk";
import { didWhat, stateAt } from "./walk";

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
		show(<Walk steps={steps} />);
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
		show(<Walk steps={steps} error="The rules don’t let them." />);
		expect(screen.getByText("5 of 5")).toBeTruthy();
		expect(screen.getByText("The rules don’t let them.")).toBeTruthy();
		expect(screen.getByText("stopped here")).toBeTruthy();
	});
});
