import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { answering, Refusal, show } from "../testing";
import { MakePages } from "./MakePages";
import { app, crew } from "./sample";

const page = (id: string, name: string) => ({ id, kind: "list", name, roles: [crew], text: `Lists ${name}` });

describe("pages from tables", () => {
	it("are offered for the tables and roles that are chosen, and made without those that are left out", async () => {
		const asked = answering({
			"GET /pages/proposal": { pages: [page("list.boat", "Boats"), page("record.boat", "Boat")] },
			"POST /pages/proposal": { revision: 8, added: [], sentences: [] },
		});
		const { person } = show(<MakePages app={app()} />);
		await person.click(screen.getByRole("button", { name: "Make pages from tables" }));
		await person.click(await screen.findByLabelText(/Lists Boats/));
		await person.click(screen.getByRole("button", { name: "Make 1 page" }));
		const sent = () => asked.find((a) => a.method === "POST");
		await waitFor(() => expect(sent()?.body.take).toEqual(["record.boat"]));
		expect(asked[0]?.query.get("tables")).toBe(
			app()
				.tables.map((t) => t.id)
				.join(","),
		);
		await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
	});

	it("say what to do where there is nothing to make", async () => {
		answering({ "GET /pages/proposal": { pages: [] } });
		const { person } = show(<MakePages app={app()} />);
		await person.click(screen.getByRole("button", { name: "Make pages from tables" }));
		expect(await screen.findByText(/give them access under People first/)).toBeTruthy();
		expect((screen.getByRole("button", { name: "Make pages" }) as HTMLButtonElement).disabled).toBe(true);
	});

	it("stay offered where they could not be made", async () => {
		answering({
			"GET /pages/proposal": { pages: [page("list.boat", "Boats")] },
			"POST /pages/proposal": new Refusal(422, "The app has changed."),
		});
		const { person } = show(<MakePages app={app()} />);
		await person.click(screen.getByRole("button", { name: "Make pages from tables" }));
		await person.click(await screen.findByRole("button", { name: "Make 1 page" }));
		expect((await screen.findByRole("alert")).textContent).toBe("The app has changed.");
	});
});
