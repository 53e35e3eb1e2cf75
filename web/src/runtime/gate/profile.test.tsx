import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { answering, Refusal, show } from "../../testing";
import { block } from "../blocks/sample";
import { forgetAllUnsent } from "../unsent";
import type { Me } from "./api";
import { Profile } from "./Profile";

const column = (id: string, name: string) => ({ id, table: "sailor", name, type: "text", kind: "text", entered: true });

const me = (more: Partial<Me> = {}): Me =>
	({
		app: {
			name: "Loft",
			theme: "harbour",
			look: {},
			faces: [],
			menu: [],
			person: "Ines",
			signedIn: true,
			locked: false,
		},
		authenticator: false,
		closing: "",
		email: "ines@sails.example",
		hasPassword: false,
		parts: [
			{
				path: "r:profile",
				record: "1",
				role: "Sailors",
				form: block({
					id: "r:profile",
					kind: "form",
					submit: "Save",
					revision: 4,
					live: false,
					order: [{ id: "q_name" }, { id: "q_number" }],
					state: {
						parts: { q_name: { required: true }, q_number: { value: "GER 7" } },
						questions: [
							{ id: "q_name", column: column("s_name", "Name"), required: true, value: "Ines" },
							{ id: "q_number", column: column("s_number", "Sail number"), shown: true },
						],
						blocks: [],
					},
				}),
			},
		],
		passwords: true,
		sessions: [
			{
				id: "s1",
				agent: "Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0",
				here: true,
				since: "2026-05-01T10:00:00Z",
				seen: "2026-05-02T10:00:00Z",
			},
		],
		terms: [],
		...more,
	}) as unknown as Me;

const profile = (m: unknown, answers: Record<string, unknown> = {}) => {
	const asked = answering({
		"GET /gate": { app: me().app, state: "", ways: ["code"], finds: [], signUps: [], words: {} },
		"GET /me": m,
		...answers,
	});
	const shown = show(<Profile />);
	const sent = (path: string) => asked.filter((a) => a.method === "POST" && a.path.endsWith(path)).map((a) => a.body);
	return { ...shown, asked, sent };
};

const part = (title: string) => within(screen.getByRole("heading", { name: title }).closest("section") as HTMLElement);

beforeEach(() => forgetAllUnsent());

describe("a profile", () => {
	it("shows what somebody may see, and saves what they may change", async () => {
		const { person, sent } = profile(me(), { "POST /forms/r:profile": { thanks: "Your details are saved." } });
		expect(await screen.findByText("GER 7")).toBeTruthy();
		const name = screen.getByLabelText("Name");
		await person.clear(name);
		await person.type(name, "Ines Calder");
		await person.click(screen.getByRole("button", { name: "Save" }));
		expect(await screen.findByText("Your details are saved.")).toBeTruthy();
		expect(sent("/forms/r:profile")).toEqual([
			{ key: expect.any(String), path: "r:profile", record: "1", revision: 4, values: { s_name: "Ines Calder" } },
		]);
	});

	it("shows a mistake at its field, and keeps what was typed", async () => {
		const { person } = profile(me(), {
			"POST /forms/r:profile": new Refusal(422, "Some answers are not right.", [
				{ location: "s_name", message: "Fill this in." },
			]),
		});
		await person.clear(await screen.findByLabelText("Name"));
		await person.click(screen.getByRole("button", { name: "Save" }));
		expect(await screen.findByText("Fill this in.")).toBeTruthy();
		expect(screen.queryByText("Your details are saved.")).toBeNull();
	});

	it("lets sign in who is not", async () => {
		profile(new Refusal(401, "Please sign in."));
		expect(await screen.findByText("Please sign in to see your profile.")).toBeTruthy();
		expect(screen.getByLabelText("Your email")).toBeTruthy();
	});

	it("changes an email by a code that is sent to the new one", async () => {
		const { person, sent } = profile(me({ hasPassword: true }), {
			"POST /me/address": undefined,
			"POST /me/address/use": undefined,
		});
		await person.click(await screen.findByRole("button", { name: "Change email" }));
		await person.type(part("Email").getByLabelText("New email"), "new@sails.example");
		await person.type(part("Email").getByLabelText("Current password"), "secret words");
		await person.click(part("Email").getByRole("button", { name: "Send code" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456");
		await person.click(part("Email").getByRole("button", { name: "Change email" }));
		expect(await screen.findByText("Your email is changed.")).toBeTruthy();
		expect(sent("/me/address")).toEqual([{ email: "new@sails.example", password: "secret words" }]);
		expect(sent("/me/address/use")).toEqual([{ email: "new@sails.example", code: "123456" }]);
	});

	it("sets a first password without an old one, and changes it only with", async () => {
		const first = profile(me(), { "POST /me/password": undefined });
		await first.person.click(await screen.findByRole("button", { name: "Set password" }));
		expect(part("Password").queryByLabelText("Current password")).toBeNull();
		await first.person.type(part("Password").getByLabelText("New password"), "barnacle-and-orchard");
		await first.person.click(part("Password").getByRole("button", { name: "Set password" }));
		await screen.findByText("Your password is set. You are signed out everywhere else.");
		expect(first.sent("/me/password")).toEqual([{ new: "barnacle-and-orchard" }]);
		first.unmount();
		const again = profile(me({ hasPassword: true }), {
			"POST /me/password": new Refusal(422, "The current password is wrong."),
		});
		await again.person.click(await screen.findByRole("button", { name: "Change password" }));
		await again.person.type(part("Password").getByLabelText("Current password"), "x");
		await again.person.type(part("Password").getByLabelText("New password"), "barnacle-and-orchard");
		await again.person.click(part("Password").getByRole("button", { name: "Set password" }));
		expect((await screen.findByRole("alert")).textContent).toBe("The current password is wrong.");
	});

	it("has no password where the app has none", async () => {
		profile(me({ passwords: false }));
		await screen.findByText("GER 7");
		expect(screen.queryByRole("heading", { name: "Password" })).toBeNull();
	});

	it("tells where somebody is signed in, and signs out there", async () => {
		const there = {
			id: "s2",
			agent: "Mozilla/5.0 (iPhone; CPU iPhone OS 18_0) Safari/605",
			here: false,
			since: "2026-04-01T10:00:00Z",
			seen: "2026-04-02T10:00:00Z",
			until: "2026-06-02T10:00:00Z",
		};
		const { person, sent } = profile(me({ sessions: [...me().sessions, there] }), {
			"POST /me/sessions/end": undefined,
		});
		expect(await screen.findByText(/Firefox on Linux/)).toBeTruthy();
		expect(screen.getByText(/Safari on iPhone/)).toBeTruthy();
		const ways = part("Where you are signed in");
		expect(ways.getAllByRole("button", { name: "Sign out" }), "not here").toHaveLength(1);
		await person.click(ways.getByRole("button", { name: "Sign out" }));
		await person.click(ways.getByRole("button", { name: "Sign out everywhere else" }));
		await waitFor(() => expect(sent("/me/sessions/end")).toEqual([{ id: "s2" }, {}]));
	});

	it("closes an account only when asked twice, and says what becomes of the record", async () => {
		const { person, sent } = profile(me({ closing: "delete" }), { "POST /me/close": undefined });
		expect(await screen.findByText("This signs you out everywhere and deletes your record.")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Close account …" }));
		await person.click(screen.getByRole("button", { name: "Cancel" }));
		await person.click(screen.getByRole("button", { name: "Close account …" }));
		expect(sent("/me/close")).toEqual([]);
		await person.click(screen.getByRole("button", { name: "Close account" }));
		await waitFor(() => expect(sent("/me/close")).toEqual([{}]));
	});

	it("does not offer to close it where the app does not", async () => {
		profile(me({ terms: [{ version: "3", at: "2026-05-01T10:00:00Z" }] as Me["terms"] }));
		expect(await screen.findByText("You accepted the terms of version 3 on 1 May 2026.")).toBeTruthy();
		expect(screen.queryByRole("heading", { name: "Close account" })).toBeNull();
	});
});
