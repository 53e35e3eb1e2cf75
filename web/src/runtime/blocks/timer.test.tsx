import { cleanup, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { type Asked, answering } from "../../testing";
import { block, one } from "./sample";
import { spelled } from "./Timer";

const ago = (minutes: number) => new Date(Date.now() - minutes * 60_000).toISOString();
const timer = (more: object = {}) =>
	block({
		kind: "timer",
		title: "On her",
		now: ago(0),
		starts: true,
		kinds: [
			{ id: "a", label: "Hull" },
			{ id: "b", label: "Rigging" },
		],
		open: [
			{ id: "1", kind: "a", hours: "0.5", since: ago(30) },
			{ id: "2", kind: "b", hours: "1" },
		],
		totals: [{ kind: "a", hours: "2.5" }, { kind: "b", hours: "1" }, { hours: "4" }],
		whole: "7.5",
		...more,
	});

afterEach(cleanup);

const time = (name: string) => screen.getByRole("status", { name }).textContent;

describe("a timer", () => {
	it("spells hours", () => {
		expect([0, 1.5, 1.0001, 26.9999].map(spelled)).toEqual(["0:00:00", "1:30:00", "1:00:00", "27:00:00"]);
	});

	it("counts what runs over what was worked", async () => {
		one(timer());
		expect(await screen.findByText("On her")).toBeTruthy();
		expect(time("Hull")).toMatch(/^3:00:0\d$/);
		expect(time("Rigging")).toBe("1:00:00");
		expect(time("Other hours")).toBe("4:00:00");
		expect(time("In all")).toMatch(/^8:00:0\d$/);
	});

	it("pauses, goes on, stops, and asks about what was forgotten", async () => {
		const sent: object[] = [];
		answering({
			"POST /timers/b1": ({ body }: Asked) => {
				sent.push(body);
				return {};
			},
		});
		const { person } = one(timer({ open: [{ id: "1", kind: "a", hours: "0", since: ago(900), forgotten: true }] }));
		await person.click(await screen.findByRole("button", { name: "Pause Hull" }));
		await waitFor(() => expect(sent).toMatchObject([{ do: "pause" }]));
		await person.click(screen.getByRole("button", { name: "Start Rigging" }));
		await waitFor(() => expect(sent[1]).toMatchObject({ do: "start", kind: "b" }));
		await person.click(screen.getByRole("button", { name: "Stop" }));
		await waitFor(() => expect(sent[2]).toMatchObject({ do: "stop" }));
		await person.type(screen.getByLabelText("You stopped at"), "2026-05-01T17:30");
		await person.click(screen.getByRole("button", { name: "End it then" }));
		await waitFor(() => expect(sent[3]).toMatchObject({ do: "end", entry: "1" }));
	});

	it("cannot be used by who may not, and says where it runs", async () => {
		one(timer({ starts: false, elsewhere: "the Genoa", open: [] }));
		expect(await screen.findByText(/Your timer runs on the Genoa/)).toBeTruthy();
		expect(screen.queryByRole("button")).toBeNull();
	});
});
