import { cleanup, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { type Asked, answering, Refusal } from "../../testing";
import { block, one } from "./sample";

const item = (id: string, text: string, more: object = {}) => ({ id, revision: 3, text, done: false, ...more });
const checklist = (more: object = {}) =>
	block({
		kind: "checklist",
		title: "Welcome",
		round: 1,
		ticks: true,
		items: [
			item("a", "Keys", { done: true, by: "Ann", at: "2026-05-02" }),
			item("b", "Card", { due: "2026-05-01", late: true }),
			item("c", "Round", { due: "2026-06-01" }),
		],
		...more,
	});

afterEach(cleanup);

describe("a checklist", () => {
	it("says how far it is, who did what, and what is late", async () => {
		one(checklist({ earlier: [{ round: 0, items: [item("z", "Old", { done: true })] }] }));
		expect(await screen.findByText("1 of 3 done")).toBeTruthy();
		expect(screen.getByRole("progressbar").getAttribute("value")).toBe("1");
		expect(screen.getByText(/^Ann, .*2026/)).toBeTruthy();
		expect(screen.getByText(/^Was due .*2026/).className).toBe("checklist-late");
		expect(screen.getByText(/^Due .*2026/)).toBeTruthy();
		expect(screen.getByText("List 0: 1 of 1 done")).toBeTruthy();
	});

	it("ticks at once, and says why it could not", async () => {
		const sent: unknown[] = [];
		answering({
			"POST /checklists/b1/ticks": ({ body }: Asked) => {
				sent.push(body);
				return new Refusal(409, "Someone changed this.");
			},
		});
		const { person } = one(checklist());
		await person.click(await screen.findByRole("checkbox", { name: "Card" }));
		await waitFor(() => expect(sent).toMatchObject([{ item: "b", revision: 3, done: true }]));
		expect((await screen.findByRole("alert")).textContent).toBe("Someone changed this.");
		expect((screen.getByRole("checkbox", { name: "Card" }) as HTMLInputElement).checked).toBe(false);
	});

	it("takes ticks that come quickly, one after the other", async () => {
		const sent: { item: string; revision: number; done: boolean }[] = [];
		let answer = () => {};
		const slow = new Promise<void>((done) => {
			answer = done;
		});
		answering({
			"POST /checklists/b1/ticks": async ({ body }: Asked) => {
				sent.push(body);
				await slow;
				return {};
			},
		});
		const { person } = one(checklist());
		const card = await screen.findByRole("checkbox", { name: "Card" });
		await person.click(card);
		await person.click(card);
		await person.click(screen.getByRole("checkbox", { name: "Round" }));
		expect(sent).toHaveLength(1);
		answer();
		await waitFor(() =>
			expect(sent.map((s) => `${s.item} ${s.revision} ${s.done}`)).toEqual(["b 3 true", "b 4 false", "c 3 true"]),
		);
	});

	it("is begun, again, and takes over what is new", async () => {
		const sent: object[] = [];
		answering({
			"POST /checklists/b1": ({ body }: Asked) => {
				sent.push(body);
				return {};
			},
		});
		const { person } = one(checklist({ again: true, gained: ["Gift"] }));
		await person.click(await screen.findByRole("button", { name: "Add 1 new step" }));
		await waitFor(() => expect(sent).toMatchObject([{ round: 1, gained: true }]));
		await waitFor(() =>
			expect(screen.getByRole("button", { name: "Begin again" }).hasAttribute("disabled")).toBe(false),
		);
		await person.click(screen.getByRole("button", { name: "Begin again" }));
		await waitFor(() => expect(sent[1]).toMatchObject({ round: 1, gained: false }));
		cleanup();
		one(checklist({ items: [], round: 0, ticks: false }));
		expect(await screen.findByText("No checklist yet.")).toBeTruthy();
	});
});
