import { cleanup, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { answering } from "../../../testing";
import { block, one } from "../sample";

const number = { id: "n", name: "Orders", column: { id: "n", name: "Orders", type: "number", kind: "number" } };
const days = { range: "", from: "", to: "" };
const figure = (badge: object) =>
	block({ kind: "figure", title: "Orders", measures: [number], values: ["3"], days, badge });
const post = "POST /badges/b1";

afterEach(cleanup);

describe("the badge of a figure", () => {
	it("is asked for once it is due, and celebrated until that is closed", async () => {
		const asked = answering({
			[post]: { name: "Three", picture: "star", days: [{ range: "", from: "2026-11-23", to: "2026-11-29" }] },
		});
		const { person } = one(figure({ name: "Three", picture: "star", due: true }));
		const told = await screen.findByText("You reached the target.");
		expect(told.parentElement?.textContent).toMatch(
			/^You reached the target\. The badge “Three” is yours: .*23.*29.*\.$/,
		);
		expect(asked.map((a) => [a.method, a.body])).toEqual([["POST", { path: "boats" }]]);
		await person.click(screen.getByRole("button", { name: "Close" }));
		expect(screen.queryByText("You reached the target.")).toBeNull();
	});

	it("says nothing where it is taken back, and asks for nothing that is not due", async () => {
		const asked = answering({ [post]: { name: "Three", days: [] } });
		const { unmount } = one(figure({ name: "Three", due: true }));
		expect(await screen.findByText("To be reached: Three")).toBeTruthy();
		await waitFor(() => expect(asked.length).toBe(1));
		expect(screen.queryByText("You reached the target.")).toBeNull();
		unmount();
		one(figure({ name: "Three", won: true }));
		expect((await screen.findByText("Three")).dataset.won).toBe("true");
		expect(asked.length).toBe(1);
	});
});

describe("a collection of badges", () => {
	it("says how often each was reached, when last, and how", async () => {
		const goal = { kind: "least", at: "3" };
		one(
			block({
				kind: "badges",
				title: "Yours",
				badges: [
					{
						name: "Three",
						times: 2,
						last: "2026-11-28T10:00:00Z",
						measures: [{ ...number, goal }],
						range: "this week",
					},
					{ name: "Few", times: 0, measures: [{ ...number, goal: { kind: "most", at: null } }] },
				],
			}),
		);
		expect(await screen.findByText(/^Reached 2 times, last .*2026/)).toBeTruthy();
		expect(screen.getByText("Orders: at least 3, this week")).toBeTruthy();
		expect(screen.getByText("Not reached yet")).toBeTruthy();
		expect(screen.getByText("Orders: its target")).toBeTruthy();
	});

	it("says where there is none, and where nobody can have one", async () => {
		const { unmount } = one(block({ kind: "badges", badges: [] }));
		expect(await screen.findByText("There are no badges to reach yet.")).toBeTruthy();
		unmount();
		one(block({ kind: "badges", badges: [], hidden: true }));
		expect(await screen.findByText(/^Badges are for people who sign in here/)).toBeTruthy();
	});
});
