import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { answering } from "../../../testing";
import { address, block, name, one } from "../sample";
import { arc } from "./Ring";
import { type ChartBlock, csvOf, daysText, groupName, towards } from "./told";

const measure = (id: string, more: object = {}, column: object = {}) => ({
	id,
	name: id,
	column: { ...name, id, type: "number", kind: "number", ...column },
	...more,
});
const days = { range: "", from: "", to: "" };
const chart = (more: object = {}) =>
	block({
		kind: "chart",
		title: "Takings",
		shape: "bars",
		by: { ...name, id: "kind", name: "Kind", kind: "choice" },
		groups: [
			{ key: "a", label: "Hull" },
			{ key: "b", label: "Engine" },
			{ key: "", label: "Without" },
		],
		measures: [measure("Planned"), measure("Worked", {}, { unit: "h" })],
		series: [
			{ measure: "Planned", values: ["12", "-3.5", null] },
			{ measure: "Worked", values: ["8", "4", "2"] },
		],
		whole: ["8.5", "14"],
		days,
		...more,
	});

beforeEach(() => {
	vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(600);
});

const group = (words: RegExp | string) => screen.findByRole("button", { name: words });

describe("a chart", () => {
	it("tells each group in full, by Tab and arrows, and by pointer", async () => {
		const { person } = one(chart());
		const hull = await group("Hull: Planned 12, Worked 8 h");
		expect(screen.getByRole("button", { name: "Without: Planned –, Worked 2 h" })).toBeTruthy();
		hull.focus();
		await person.keyboard("{ArrowRight}");
		expect(document.activeElement?.getAttribute("aria-label")).toBe("Engine: Planned -3.5, Worked 4 h");
		await person.keyboard("{End}");
		expect(document.activeElement?.getAttribute("aria-label")).toContain("Without");
		await person.hover(hull);
		await waitFor(() => expect(document.querySelector(".plot-told")?.textContent).toContain("Planned 12"));
	});

	it("takes series away and brings them back, but not the last one", async () => {
		const { person } = one(chart());
		await group(/^Hull/);
		const planned = screen.getByRole("button", { name: "Planned" });
		const worked = screen.getByRole("button", { name: "Worked" });
		await person.click(planned);
		expect(planned.getAttribute("aria-pressed")).toBe("false");
		expect(screen.getByRole("button", { name: "Hull: Worked 8 h" })).toBeTruthy();
		await person.click(worked);
		expect(worked.getAttribute("aria-pressed")).toBe("true");
		await person.click(planned);
		expect(screen.getByRole("button", { name: "Hull: Planned 12, Worked 8 h" })).toBeTruthy();
	});

	it("is a table at a press, with all together", async () => {
		const { person } = one(
			chart({ series: [{ measure: "Planned", values: ["12", "1", "0"], before: ["10", null, "0"] }], whole: ["13"] }),
		);
		await group(/^Hull/);
		await person.click(screen.getByRole("button", { name: "Table" }));
		const rows = within(screen.getByRole("table"))
			.getAllByRole("row")
			.map((r) => r.textContent);
		expect(rows).toEqual(["KindPlannedbefore", "Hull1210", "Engine1–", "Without00", "All together13"]);
	});

	it("opens the records of a group, also of those that have no value", async () => {
		const made = answering({
			"GET /figures/b1": {
				columns: [{ ...name, id: "total", name: "Total", type: "number", kind: "number" }],
				rows: [{ id: "r1", label: "20321", total: "5" }],
				count: 60,
				open: "invoice",
			},
		});
		const { person } = one(chart());
		await person.click(await group(/^Without/));
		expect(await screen.findByText("Without: 60 records")).toBeTruthy();
		expect(made[0]?.query.get("group")).toBe("");
		expect(screen.getByText("The first 1 are shown.")).toBeTruthy();
		expect(screen.getByRole("link", { name: "20321" }).getAttribute("href")).toBe("/invoice/r1");
		await person.keyboard("{Escape}");
		expect(screen.queryByText("Without: 60 records")).toBeNull();
	});

	it("opens the records of what is left, which has no key", async () => {
		const made = answering({ "GET /figures/b1": { columns: [], rows: [], count: 0 } });
		const groups = [
			{ key: "a", label: "Hull" },
			{ key: "", label: "Others", others: true },
			{ key: "", label: "Without" },
		];
		const { person } = one(chart({ groups }));
		await person.click(await group(/^Others/));
		expect(await screen.findByText("Others: 0 records")).toBeTruthy();
		expect([made[0]?.query.get("others"), made[0]?.query.has("group")]).toEqual(["true", false]);
	});

	it("asks for other days in the address", async () => {
		const { person } = one(
			chart({
				days: {
					range: "this month",
					from: "2026-05-01",
					to: "2026-05-31",
					choose: true,
					offered: ["this month", "last year"],
				},
			}),
		);
		await person.selectOptions(await screen.findByLabelText("Days"), "last year");
		expect(address()).toBe("?b1.days=last-year");
		await person.selectOptions(screen.getByLabelText("Days"), "own days …");
		await person.clear(screen.getByLabelText("From"));
		await person.type(screen.getByLabelText("From"), "2026-06-02");
		expect(screen.getByText("They end before they begin.")).toBeTruthy();
		await person.clear(screen.getByLabelText("To"));
		await person.type(screen.getByLabelText("To"), "2026-06-09");
		await person.click(screen.getByRole("button", { name: "Show" }));
		expect(address()).toBe("?b1.days=2026-06-02..2026-06-09");
	});

	it("asks for other groups in the address, and for the unit of days", async () => {
		const by = { ...name, id: "kind", name: "Kind", kind: "choice" };
		const day = { ...name, id: "day", name: "Day", kind: "date" };
		const first = one(chart({ bys: [by, day] }));
		const grouped = await screen.findByLabelText<HTMLSelectElement>("Grouped by");
		expect([...grouped.options].map((o) => o.text)).toEqual(["by Kind", "by Day"]);
		await first.person.selectOptions(grouped, "by Day");
		expect(address()).toBe("?b1.by=day");
		first.unmount();
		const { person } = one(chart({ by: day, bys: [by, day], unit: "month", units: true }), "/?b1.by=day&b1.unit=week");
		await person.selectOptions(await screen.findByLabelText("For each"), "by year");
		expect(address()).toBe("?b1.by=day&b1.unit=year");
		await person.selectOptions(screen.getByLabelText("Grouped by"), "by Kind");
		expect(address()).toBe("?b1.by=kind");
	});

	it("offers no groups where there is nothing to choose", async () => {
		one(chart({ bys: [{ ...name, id: "kind", name: "Kind", kind: "choice" }] }));
		await group(/^Hull/);
		expect(screen.queryByLabelText("Grouped by")).toBeNull();
	});

	it.each(["bars", "sideways", "lines", "areas", "donut"])(
		"draws %s of nothing, of one, of many and of long names",
		async (shape) => {
			const long = "Antifouling, polishing and everything else below the waterline of larger boats";
			const of = (n: number) =>
				chart({
					shape,
					groups: Array.from({ length: n }, (_, i) => ({ key: `k${i}`, label: `${i} ${long}` })),
					measures: [measure("Planned")],
					series: [
						{
							measure: "Planned",
							values: Array.from({ length: n }, (_, i) => String((i % 7) - (shape === "donut" ? 0 : 3))),
						},
					],
					whole: ["1"],
				});
			for (const n of [1, 1000]) {
				const { unmount } = one(of(n));
				const pieces = await screen.findAllByRole("button", { name: /waterline/ }).catch(() => []);
				if (n > 1) expect(pieces).toHaveLength(n);
				for (const e of document.querySelectorAll("rect, path, line, text"))
					for (const a of e.attributes) expect(a.value).not.toMatch(/NaN|Infinity/);
				unmount();
			}
			one(of(0));
			expect(await screen.findByText("There is nothing to draw for these days.")).toBeTruthy();
		},
		20_000,
	);

	it("says where one cannot see what it is made of", async () => {
		one(chart({ hidden: true, groups: [], series: [] }));
		expect(await screen.findByText("You can’t see what this chart is made of.")).toBeTruthy();
		expect(screen.queryByRole("button", { name: "Take as CSV" })).toBeNull();
	});
});

describe("what is told", () => {
	const of = (more: object) => chart(more) as unknown as ChartBlock;
	it("names parts of time and steps of numbers", () => {
		const named = (more: object, key: string, short = false) => groupName(of(more), { key, label: key }, short);
		expect(named({ unit: "quarter" }, "2026-10-01")).toBe("Q4 2026");
		expect(named({ unit: "year" }, "2026-01-01")).toBe("2026");
		expect(named({ unit: "month" }, "2026-05-01")).toBe("May 2026");
		expect(named({ by: { ...name, id: "n", kind: "number", type: "number" }, step: "0.1" }, "0.2")).toBe(
			"0.2 – under 0.3",
		);
		expect(groupName(of({ unit: "month" }), { key: "", label: "Without" })).toBe("Without");
		expect(daysText({ from: "2026-05-01", to: "2026-05-01" })).toMatch(/May/);
		expect(daysText({ from: "", to: "" })).toBe("all the time");
	});
	it("is no formula in a file", () => {
		const text = csvOf(
			of({ groups: [{ key: "x", label: '=HYPERLINK("x")' }], series: [{ measure: "Planned", values: ["-5"] }] }),
		);
		expect(text).toBe('"Kind","Planned"\r\n"\'=HYPERLINK(""x"")",-5');
	});
	it("draws a whole ring where one has all", () => {
		expect(arc(0, 1)).toContain("A106 106 0 1 1");
	});
});

describe("targets", () => {
	it.each([
		["least", "10", undefined, "8", 0.8, false],
		["least", "10", undefined, "10", 1, true],
		["most", "10", undefined, "12", 1.2, false],
		["most", "0", undefined, "0", 1, true],
		["between", "3", "7", "5", 5 / 3, true],
		["between", "3", "7", "8", 8 / 3, false],
	] as const)("of %s %s (to %s) with %s", (kind, at, to, value, part, met) => {
		expect(towards(value, { kind, at, to })).toEqual({ part, met });
	});
	it("are none where there is nothing to compare", () => {
		expect(towards(null, { kind: "least", at: "1" })).toBeNull();
		expect(towards("1", { kind: "least", at: null })).toBeNull();
		expect(towards("1", undefined)).toBeNull();
	});
	it("stand in the chart, in what is told and in its table", async () => {
		const aimed = { goal: { kind: "least", at: null } };
		const { person } = one(
			chart({
				measures: [measure("Planned", aimed)],
				series: [{ measure: "Planned", values: ["12", "1", "0"], goal: ["10", null, "4"] }],
				whole: ["13"],
			}),
		);
		expect(await group("Hull: Planned 12 of 10")).toBeTruthy();
		expect(document.querySelectorAll(".plot-goal")).toHaveLength(2);
		expect(screen.getByText("target of Planned")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Table" }));
		expect(screen.getByRole("row", { name: "Engine 1 –" })).toBeTruthy();
		expect(
			csvOf(
				chart({
					measures: [measure("Planned")],
					series: [{ measure: "Planned", values: ["1"], goal: ["2"] }],
					groups: [{ key: "a", label: "A" }],
				}) as unknown as ChartBlock,
			),
		).toBe('"Kind","Planned","Planned, target"\r\n"A",1,2');
	});
});

describe("a figure", () => {
	const figure = (more: object = {}) =>
		block({ kind: "figure", title: "Hours", measures: [measure("Hours")], values: ["30"], days, ...more });
	it("says whether a change is good, and only where that is said", async () => {
		const { unmount } = one(figure({ before: ["40"], better: "lower" }));
		expect((await screen.findByText(/-10 \(-25 %\)/)).dataset.good).toBe("true");
		expect(screen.getByText(", which is better")).toBeTruthy();
		unmount();
		one(figure({ before: ["0"] }));
		const change = await screen.findByText(/\+30/);
		expect(change.dataset.good).toBeUndefined();
		expect(change.textContent).not.toContain("%");
	});
	it("says how far it is towards its target, and how long that takes", async () => {
		const aimed = (goal: object) => figure({ measures: [measure("Hours", { goal })] });
		const { unmount } = one(aimed({ kind: "least", at: "40", left: 1 }));
		expect((await screen.findByText("75 %")).parentElement?.textContent).toBe("75 % so far, at least 40 · 1 day left");
		unmount();
		one(aimed({ kind: "between", at: "10", to: "29" }));
		expect(await screen.findByText("outside, between 10 and 29")).toBeTruthy();
	});
	it("has a dash for nothing, and nothing to compare with", async () => {
		one(figure({ values: [null], before: ["3"] }));
		expect(await screen.findByText("–")).toBeTruthy();
		expect(screen.getByText("Nothing to compare with")).toBeTruthy();
	});
});
