import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { answering, show } from "../../testing";
import type { AppOut, Rehearsal, Told } from "../api";
import { Compare } from "./Compare";
import { differences } from "./compare";
import { KeepAsWant, outcomesOf, Wants } from "./Wants";

const app = { id: "app", member: "editor" } as unknown as AppOut;

const step = (id: string, more: Partial<Told> = {}): Told => ({
	step: id,
	sentence: `Do ${id}`,
	rounds: [],
	what: "did",
	looked: [],
	writes: [],
	micros: 1,
	...more,
});

const rehearsal = (more: Partial<Rehearsal> = {}): Rehearsal => ({
	workflow: "w",
	name: "Tell",
	status: "done",
	starts: true,
	looked: [],
	steps: [step("a"), step("b", { found: 2 })],
	shows: {},
	followed: [],
	outcomes: [
		{ key: "end done", text: "It comes to its end." },
		{ key: "mail", text: "An email goes to Ann." },
	],
	...more,
});

describe("what came of a rehearsal", () => {
	it("has what came of those that it set off", () => {
		const of = rehearsal({ followed: [rehearsal({ workflow: "x", name: "Next" }), rehearsal({ starts: false })] });
		expect(outcomesOf(of).map((o) => o.key)).toEqual([
			"end done",
			"mail",
			"then x end done",
			"then x mail",
			"then w end not begun",
		]);
	});

	it("is kept without what is another each day", async () => {
		const asked = answering({ "POST /workflows/w/expectations": { wants: [] } });
		show(<KeepAsWant app={app} of={rehearsal()} asked={{ as: "founder" }} />);
		await userEvent.click(screen.getByRole("button", { name: /Keep it as/ }));
		await userEvent.type(screen.getByLabelText(/^Name/), "Ann is told");
		await userEvent.click(screen.getByLabelText("It comes to its end."));
		await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
		await waitFor(() =>
			expect(asked.find((a) => a.method === "POST")?.body).toEqual({
				name: "Ann is told",
				asked: { as: "founder" },
				keys: ["mail"],
			}),
		);
	});

	it("is listed with what does not hold", async () => {
		answering({
			"GET /workflow-expectations": {
				wants: [
					{ id: "1", workflow: "w", name: "Ann is told", wants: [], met: false, problem: "An email goes to Ann." },
					{ id: "2", workflow: "other", name: "Not here", wants: [], met: true },
				],
			},
		});
		show(<Wants app={app} flow="w" />);
		await screen.findByText("Not met: An email goes to Ann.");
		expect(screen.queryByText("Not here")).toBeNull();
	});
});

describe("two rehearsals", () => {
	const later = rehearsal({
		steps: [step("a"), step("b", { found: 3 }), step("c", { mail: { to: ["x@y.example"], subject: "Hi", plain: "" } })],
		outcomes: [{ key: "end done", text: "It comes to its end." }],
	});

	it("are compared step by step", () => {
		expect(differences(rehearsal(), rehearsal())).toEqual([]);
		expect(differences(rehearsal(), later).map((d) => [d.sentence, d.before, d.now])).toEqual([
			["Do b", "found 2", "found 3"],
			["Do c", undefined, "to x@y.example, Hi"],
		]);
	});

	it("are told apart in words", () => {
		show(<Compare before={rehearsal()} now={later} />);
		expect(screen.getByText("An email goes to Ann.").tagName).toBe("S");
		expect(screen.getByText("not done")).toBeTruthy();
	});
});
