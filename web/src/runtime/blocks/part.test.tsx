import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { answering, Refusal } from "../../testing";
import { block, list, one, place } from "./sample";

afterEach(() => vi.useRealTimers());

const button = (id: string, text: string) => ({
	id: `use~${id}`,
	kind: "button",
	text,
	to: { path: "plan" },
	while: { value: "here", is: "yes" },
	reacts: [
		{ on: "over", value: "hint", to: id },
		{ on: "leave", value: "hint", to: "" },
	],
});
const part = {
	id: "use",
	kind: "part",
	values: { here: "", hint: "" },
	here: [
		{ on: "over", value: "here", to: "yes" },
		{ on: "leave", value: "here", to: "", after: 250 },
	],
	blocks: [
		button("a", "Plan"),
		button("b", "Drop"),
		{ id: "use~h", kind: "text", html: "The hint of Drop", while: { value: "hint", is: "b" } },
	],
};
const rows = () => one(list({ ways: ["lines"], as: "lines", open: "boat", inside: { 1: [part], 2: [part] } }));
const row = (n: number) => document.querySelectorAll("[data-row]")[n] as HTMLElement;
const point = (e: Element, what: "enter" | "leave" | "down", kind = "mouse") => {
	const event = new Event(`pointer${what}`, { bubbles: what === "down" });
	Object.assign(event, { pointerType: kind });
	act(() => void e.dispatchEvent(event));
};
const there = () => screen.queryAllByRole("link", { name: "Plan" }).length;

describe("a part in rows", () => {
	it("shows its buttons only in the row that is pointed at, and a quarter of a second longer", async () => {
		rows();
		await screen.findByText("Boat 1", { exact: false }).catch(() => null);
		await waitFor(() => expect(row(1)).toBeTruthy());
		point(row(0), "enter"); // what shows buttons is loaded when there is one
		await waitFor(() => expect(there()).toBe(1));
		point(row(0), "leave");
		await waitFor(() => expect(there()).toBe(0));
		vi.useFakeTimers();
		point(row(0), "enter");
		expect(there()).toBe(1);
		expect(row(0).textContent).toContain("Plan");
		point(row(0), "leave");
		point(row(1), "enter");
		expect(there()).toBe(2);
		act(() => void vi.advanceTimersByTime(200));
		point(row(0), "enter"); // back in time
		act(() => void vi.advanceTimersByTime(300));
		expect(row(0).textContent).toContain("Plan");
		point(row(0), "leave");
		act(() => void vi.advanceTimersByTime(249));
		expect(row(0).textContent).toContain("Plan");
		act(() => void vi.advanceTimersByTime(1));
		expect(row(0).textContent).not.toContain("Plan");
		expect(row(1).textContent).toContain("Plan");
	});

	it("shows the hint of the button alone that is pointed at", async () => {
		rows();
		await waitFor(() => expect(row(1)).toBeTruthy());
		point(row(0), "enter");
		const drop = screen.getByRole("link", { name: "Drop" }).closest(".cell") as Element;
		expect(screen.queryByText("The hint of Drop")).toBeNull();
		point(drop, "enter");
		expect(screen.getByText("The hint of Drop")).toBeTruthy();
		point(drop, "leave");
		point(screen.getByRole("link", { name: "Plan" }).closest(".cell") as Element, "enter");
		expect(screen.queryByText("The hint of Drop")).toBeNull();
	});

	it("comes with the focus, and goes with it", async () => {
		const { person } = rows();
		await waitFor(() => expect(row(1)).toBeTruthy());
		await person.tab();
		while (!row(0).contains(document.activeElement)) await person.tab();
		expect(there()).toBe(1);
		await person.tab();
		expect(document.activeElement?.textContent).toBe("Plan");
		await person.tab();
		await person.tab();
		await waitFor(() => expect(row(0).textContent).not.toContain("Plan"));
		expect(row(1).textContent).toContain("Plan");
	});

	it("is brought forth by a finger, whose first touch opens nothing", async () => {
		rows();
		await waitFor(() => expect(row(1)).toBeTruthy());
		const link = row(0).querySelector("a") as HTMLElement;
		point(link, "down", "touch");
		fireEvent.click(link);
		expect(place()).toBe("/");
		expect(there()).toBe(1);
		point(link, "down", "touch");
		fireEvent.click(link);
		expect(place()).toBe("/boat/1");
		point(row(1), "down", "touch");
		await waitFor(() => expect(row(0).textContent).not.toContain("Plan"));
	});
});

describe("a question whose answer is kept", () => {
	const length = { id: "k", table: "kept", name: "Length", type: "number", kind: "number", entered: true };
	const keep = (value: string | null) =>
		block({ kind: "keep", kept: [{ column: length, value }], submit: "Show", to: { path: "berths" } });

	it("keeps what is said, and goes on", async () => {
		const asked = answering({ "POST /kept": undefined });
		const { person } = one(keep(null));
		await person.type(await screen.findByLabelText("Length"), "11");
		expect(screen.queryByRole("button", { name: "Forget it" })).toBeNull();
		await person.click(screen.getByRole("button", { name: "Show" }));
		await waitFor(() => expect(place()).toBe("/berths"));
		expect(asked[0]?.body).toEqual({ values: { k: "11" } });
	});

	it("forgets it, and stays", async () => {
		const asked = answering({ "POST /kept": undefined });
		const { person } = one(keep("9"));
		expect(((await screen.findByLabelText("Length")) as HTMLInputElement).value).toBe("9");
		await person.click(screen.getByRole("button", { name: "Forget it" }));
		await waitFor(() => expect(asked[0]?.body).toEqual({ values: { k: null } }));
		expect(place()).toBe("/");
	});

	it("says at the field what is wrong", async () => {
		answering({ "POST /kept": new Refusal(422, "Not right.", [{ location: "k", message: "Say a number." }]) });
		const { person } = one(keep(null));
		await person.type(await screen.findByLabelText("Length"), "long");
		await person.click(screen.getByRole("button", { name: "Show" }));
		expect(await screen.findByText("Say a number.")).toBeTruthy();
		expect(screen.getByLabelText("Length").getAttribute("aria-invalid")).toBe("true");
	});

	it("is told above the lists that it narrows, and can be forgotten there", async () => {
		const asked = answering({ "POST /kept": undefined });
		const { person } = one(list({ kept: [{ column: length, value: "9" }] }));
		expect(await screen.findByText(/Length: 9/)).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Forget Length" }));
		await waitFor(() => expect(asked[0]?.body).toEqual({ values: { k: null } }));
	});
});
