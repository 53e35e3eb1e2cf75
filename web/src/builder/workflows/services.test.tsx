import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { answering, show } from "../../testing";
import type { AppOut } from "../api";
import { fromOf, inside, nameOf, typeOf } from "./answer";
import { Services } from "./Services";

const call = {
	id: "c",
	name: "Tides",
	method: "GET",
	path: "/tides/{harbour}",
	rows: "/tides",
	sends: [{ id: "h", name: "Harbour", type: "text", at: "harbour" }],
	takes: [{ id: "t", name: "Height", type: "number", at: "/height" }],
	sample: '{"tides":[{"height":2.5,"at":"2026-05-02T10:00:00Z"}]}',
};

describe("what is taken from an answer", () => {
	it("is found by pointers", () => {
		expect(inside("/a", "b/c~d")).toBe("/a/b~1c~0d");
		expect(fromOf(call, "/tides/12/height")).toBe("/height");
		expect(fromOf(call, "/harbour")).toBe("/harbour");
		expect(fromOf({ ...call, rows: "/" }, "/0/at")).toBe("/at");
		expect(fromOf({ ...call, rows: undefined }, "/tides/0/at")).toBe("/tides/0/at");
		expect(nameOf("/x/dueDate_of~1all")).toBe("Due date of/all");
		expect([7, true, "2026-05-02", "2026-05-02T10:00:00Z", "x", null].map(typeOf)).toEqual([
			"number",
			"yes/no",
			"date",
			"time stamp",
			"text",
			"text",
		]);
	});
});

const app = { id: "app", member: "owner", workflows: [] } as unknown as AppOut;
const service = { id: "port", name: "Harbour", address: "https://harbour.example", proof: "header", calls: [call] };

describe("services", () => {
	it("are given a secret that is shown to nobody", async () => {
		const asked = answering({
			"GET /services": { services: [service] },
			"PUT /services/port/secret": { services: [service] },
		});
		show(<Services app={app} />);
		await userEvent.click(await screen.findByRole("button", { name: "Give the secret" }));
		const field = screen.getByLabelText(/The secret/);
		expect(field.getAttribute("type")).toBe("password");
		await userEvent.type(field, "low water");
		await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
		await waitFor(() => expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ secret: "low water" }));
	});

	it("are tried, and what they answer is clicked to be taken", async () => {
		const asked = answering({
			"GET /services": { services: [service] },
			"POST /calls/c/trials": {
				asked: "GET /tides/Cove",
				answer: call.sample,
				names: ["Height"],
				rows: [["2.5"]],
				count: 1,
				millis: 3,
			},
			"POST /changes": { revision: 2, added: [], sentences: [] },
		});
		show(<Services app={app} />);
		await userEvent.click(await screen.findByRole("button", { name: /Tides/ }));
		await userEvent.type(screen.getByLabelText("Harbour"), "Cove");
		await userEvent.click(screen.getByRole("button", { name: "Try with the sample" }));
		await screen.findByText(/It answered in/);
		expect(asked.find((a) => a.path.endsWith("/trials"))?.body).toEqual({ values: { h: "Cove" }, real: false });
		expect(screen.getByText("2.5, taken")).toBeTruthy();
		await userEvent.click(screen.getByRole("button", { name: "2026-05-02T10:00:00Z" }));
		await waitFor(() =>
			expect(asked.find((a) => a.path.endsWith("/changes"))?.body).toEqual({
				changes: [{ kind: "add", what: "taken", into: "c", values: { name: "At", type: "time stamp", from: "/at" } }],
			}),
		);
	});
});
