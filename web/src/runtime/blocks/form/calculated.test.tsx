import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { type Asked, answering } from "../../../testing";
import { forgetAllUnsent } from "../../unsent";
import { block, name, one } from "../sample";

const number = { ...name, type: "number", kind: "number" };
const wide = { id: "q_wide", column: { ...number, id: "wide", name: "Width", unit: "m" }, value: "2" };
const area = { id: "area", kind: "result", column: { ...number, id: "area", name: "Area", unit: "m²" } };
const line = { id: "line", kind: "course" };

/** How the calculator is with a width. */
function state(width: string, more: object = {}) {
	const names = [{ words: "Width × 3" }];
	const values = [{ value: width, column: wide.column }, { words: " × 3" }];
	const result = width ? { value: String(Number(width) * 3), names, values } : { reason: "It needs Width.", names };
	const chart = {
		id: "line",
		kind: "chart",
		title: "Over the width",
		shape: "lines",
		by: wide.column,
		groups: ["0", "1"].map((key) => ({ key, label: key })),
		series: [{ measure: "area", values: ["0", width] }],
		measures: [{ id: "area", name: "Area", column: area.column }],
		whole: [],
		days: { range: "", from: "", to: "" },
	};
	return {
		parts: { q_wide: { required: true }, area: { result: { ...result, ...more } }, line: { chart } },
		questions: [],
		blocks: [],
	};
}

const calculator = (more: object = {}) =>
	block({
		kind: "calculator",
		submit: "",
		revision: 0,
		live: true,
		still: true,
		order: ["q_wide", "area", "line"].map((id) => ({ id })),
		state: { ...state("2"), questions: [wide], blocks: [area, line] },
		...more,
	});

const answers = (more: object = {}) =>
	answering({ "POST /forms/b1/state": ({ body }: Asked) => state(body.answers.wide ?? "", more) });

afterEach(() => {
	cleanup();
	forgetAllUnsent();
});

const shown = () => screen.getByRole("status", { name: "Area" }).textContent;

describe("a calculator", () => {
	it("shows results at once, what is said of them, how they come about, and why there is none", async () => {
		answers({ says: "Large", tone: "attention" });
		const { person } = one(calculator());
		await waitFor(() => expect(shown()).toBe("6 m²"));
		expect(screen.queryByRole("button", { name: "Send" })).toBeNull();
		fireEvent.change(screen.getByLabelText("Width"), { target: { value: "4" } });
		await waitFor(() => expect(shown()).toBe("12 m²"));
		expect(screen.getByText("Large").closest("[data-tone]")?.getAttribute("data-tone")).toBe("attention");
		expect(screen.queryByText("Width × 3")).toBeNull();
		await person.click(screen.getByRole("button", { name: "How it is calculated" }));
		expect(screen.getByText("Width × 3")).toBeTruthy();
		expect(screen.getByText("4 m × 3 = 12 m²")).toBeTruthy();
		fireEvent.change(screen.getByLabelText("Width"), { target: { value: "" } });
		await waitFor(() => expect(shown()).toBe("–"));
		expect(screen.getByText("It needs Width.")).toBeTruthy();
	});

	it("keeps scenarios aside, beside each other, and goes back to one", async () => {
		answers();
		const { person } = one(calculator({ compare: true }));
		const keep = await screen.findByRole("button", { name: "Keep as a scenario" });
		await person.click(keep);
		fireEvent.change(screen.getByLabelText("Width"), { target: { value: "5" } });
		await waitFor(() => expect(shown()).toBe("15 m²"));
		const table = await screen.findByRole("region", { name: "Scenarios" });
		await waitFor(() =>
			expect(
				within(table)
					.getAllByRole("row")
					.map((r) => r.textContent),
			).toEqual(["NowScenario 1Use", "Width5 m2 m", "Area15 m²6 m²"]),
		);
		await waitFor(() =>
			expect(screen.getAllByRole("button", { pressed: true }).map((b) => b.textContent)).toEqual(["Now", "Scenario 1"]),
		);
		await person.click(screen.getByRole("button", { name: "Use the answers of Scenario 1" }));
		await waitFor(() => expect(shown()).toBe("6 m²"));
		await person.click(screen.getByRole("button", { name: "Remove Scenario 1" }));
		expect(screen.queryByRole("region", { name: "Scenarios" })).toBeNull();
	});

	it("keeps scenarios while somebody is at another step", async () => {
		const parts = { one: { title: "Size" }, two: { title: "Who asks" } };
		const with_ = (s: ReturnType<typeof state>) => ({ ...s, parts: { ...s.parts, ...parts } });
		answering({ "POST /forms/b1/state": ({ body }: Asked) => with_(state(body.answers.wide ?? "")) });
		const order = [
			{ id: "one", step: true, of: ["q_wide", "area"].map((id) => ({ id })) },
			{ id: "two", step: true, of: [] },
		];
		const first = { ...with_(state("2")), questions: [wide], blocks: [area] };
		const { person } = one(calculator({ compare: true, still: false, submit: "Ask for it", order, state: first }));
		await person.click(await screen.findByRole("button", { name: "Keep as a scenario" }));
		expect(await screen.findByRole("region", { name: "Scenarios" })).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Next" }));
		expect(await screen.findByRole("heading", { name: "Who asks" })).toBeTruthy();
		expect(screen.queryByRole("region", { name: "Scenarios" })).toBeNull();
		await person.click(screen.getByRole("button", { name: "Back" }));
		expect(await screen.findByRole("region", { name: "Scenarios" })).toBeTruthy();
	});

	it("sends its answers where they are kept, and draws no records behind its chart", async () => {
		answers();
		one(calculator({ still: false, submit: "Ask for it" }));
		expect(await screen.findByRole("button", { name: "Ask for it" })).toBeTruthy();
		expect(await screen.findByText("Over the width")).toBeTruthy();
		expect(screen.queryByRole("button", { name: /^0: Area/ })).toBeNull();
	});
});
