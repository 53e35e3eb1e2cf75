import { screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { answering, Refusal, show } from "../../testing";
import type { AppOut, GateState } from "../api";
import { GateView } from "./GateView";

const app = { id: "a1", revision: 7 } as AppOut;

const state = (more: Partial<GateState> = {}): GateState =>
	({
		canCome: [
			{ id: "r", label: "Sailors" },
			{ id: "j", label: "Judges" },
		],
		invited: [],
		liveHere: true,
		log: [],
		mails: [
			{ id: "code", label: "The code" },
			{ id: "welcome", label: "The welcome" },
		],
		waiting: [],
		sender: { name: "The loft", address: "no-reply@pinegate.example", replyTo: "ann@sails.example" },
		...more,
	}) as GateState;

const view = (s: unknown, answers: Record<string, unknown> = {}) => {
	const asked = answering({ "GET /gate": s, ...answers });
	const sent = (method: string, path: string) =>
		asked.filter((a) => a.method === method && a.path.endsWith(path)).map((a) => a.body);
	return { ...show(<GateView app={app} />), asked, sent };
};

const part = (title: string) => within(screen.getByRole("heading", { name: title }).closest("section") as HTMLElement);

describe("the gate in the builder", () => {
	it("shows the screens of the draft", async () => {
		const { person } = view(state());
		const frame = await screen.findByTitle("A sign-in page");
		expect(frame.getAttribute("src")).toBe("/stage/a1/visitor/~/sign-in");
		await person.click(screen.getByRole("button", { name: "Refused" }));
		expect(screen.getByTitle("A sign-in page").getAttribute("src")).toBe("/stage/a1/visitor/~/sign-in?show=refusal");
		expect(screen.getByRole("button", { name: "Refused" }).getAttribute("aria-pressed")).toBe("true");
	});

	it("approves and declines who waits", async () => {
		const waiting = ["mo", "lu"].map((n) => ({
			id: n,
			email: `${n}@sails.example`,
			role: "Sailors",
			at: "2026-05-01T10:00:00Z",
			answers: [{ name: "Boat", value: "Tern" }],
		}));
		const { person, sent } = view(state({ waiting } as Partial<GateState>), {
			"POST /waiting/mo": undefined,
			"POST /waiting/lu": undefined,
		});
		expect(await screen.findAllByText("Boat: Tern")).toHaveLength(2);
		const [mo, lu] = part("Waiting for approval").getAllByRole("listitem") as [HTMLElement, HTMLElement];
		await person.click(within(mo).getByRole("button", { name: "Approve" }));
		await person.click(within(lu).getByRole("button", { name: "Decline" }));
		await waitFor(() => expect(sent("POST", "/waiting/lu")).toEqual([{ let: false }]));
		expect(sent("POST", "/waiting/mo")).toEqual([{ let: true }]);
	});

	it("says who emails come from, and confirms another address", async () => {
		const sender = {
			name: "The loft",
			address: "no-reply@pinegate.example",
			replyTo: "ann@sails.example",
			asked: "office@sails.example",
		};
		const { person, sent } = view(state({ sender }), {
			"POST /sender": undefined,
			"POST /sender/confirm": new Refusal(401, "That didn’t work."),
		});
		await screen.findByText(/The loft <no-reply@pinegate.example>/);
		const own = part("Who emails come from");
		expect(own.getByText(", and replies go to ann@sails.example")).toBeTruthy();
		await person.click(own.getByRole("button", { name: "Send a code" }));
		await waitFor(() => expect(sent("POST", "/sender")).toEqual([{}]));
		await person.type(own.getByLabelText("Code"), "123456");
		await person.click(own.getByRole("button", { name: "Confirm" }));
		expect((await own.findByRole("alert")).textContent).toBe("That didn’t work.");
		expect(sent("POST", "/sender/confirm")).toEqual([{ code: "123456" }]);
	});

	it("sends a mail to try it", async () => {
		const { person, sent } = view(state(), { "POST /mail-trials": new Refusal(422, "This mail is not written yet.") });
		await person.selectOptions(await screen.findByLabelText("Email", { selector: "select" }), "The welcome");
		await person.click(screen.getByRole("button", { name: "Send to me" }));
		expect((await screen.findByRole("alert")).textContent).toBe("This mail is not written yet.");
		expect(sent("POST", "/mail-trials")).toEqual([{ mail: "welcome" }]);
	});

	it("invites, and empties the form", async () => {
		const { person, sent } = view(state(), { "POST /invitations": undefined });
		await person.selectOptions(await screen.findByLabelText("Role"), "Judges");
		const email = screen.getByLabelText("Email", { selector: "input" }) as HTMLInputElement;
		await person.type(email, "mo@sails.example");
		await person.click(screen.getByRole("button", { name: "Invite" }));
		await waitFor(() => expect(email.value).toBe(""));
		expect(sent("POST", "/invitations")).toEqual([{ role: "j", email: "mo@sails.example" }]);
	});

	it("keeps the form where an invitation is refused, and cancels others", async () => {
		const invited = [{ id: "i1", email: "lu@sails.example", until: "2026-05-01T10:00:00Z" }];
		const { person, sent } = view(state({ invited } as Partial<GateState>), {
			"POST /invitations": new Refusal(422, "This is no email."),
			"DELETE /invitations/i1": undefined,
		});
		const email = (await screen.findByLabelText("Email", { selector: "input" })) as HTMLInputElement;
		await person.type(email, "mo@sails");
		await person.click(screen.getByRole("button", { name: "Invite" }));
		expect((await screen.findByRole("alert")).textContent).toBe("This is no email.");
		expect(email.value).toBe("mo@sails");
		await person.click(screen.getByRole("button", { name: "Cancel invitation" }));
		await waitFor(() => expect(sent("DELETE", "/invitations/i1")).toHaveLength(1));
	});

	it("helps somebody in, only when it is said whom", async () => {
		const { person, sent } = view(state(), { "POST /help": undefined });
		const go = (await screen.findByRole("button", { name: "Continue" })) as HTMLButtonElement;
		expect(go.disabled).toBe(true);
		await person.type(screen.getByLabelText("Their email"), "ruth@sails.example");
		await person.selectOptions(screen.getByLabelText("What to do"), "Sign out everywhere");
		await person.click(go);
		await waitFor(() => expect(sent("POST", "/help")).toEqual([{ email: "ruth@sails.example", do: "sign out" }]));
	});

	it("tells what happened at the gate, or that nothing did", async () => {
		const empty = view(state());
		expect(await screen.findByText(/No sign-ins to the live app yet/)).toBeTruthy();
		empty.unmount();
		view(
			state({
				log: [{ id: 1, at: "2026-05-01T10:00:00Z", by: "ines@sails.example", what: "Signed in by code" }],
			} as unknown as Partial<GateState>),
		);
		const row = (await screen.findByText("Signed in by code")).closest("tr") as HTMLElement;
		expect(within(row).getByText("ines@sails.example")).toBeTruthy();
	});

	it("says what went wrong, and tries again", async () => {
		let broken = true;
		const { person } = view(() => (broken ? new Refusal(500, "Something went wrong.") : state()));
		await screen.findByText("Something went wrong.");
		broken = false;
		await person.click(screen.getByRole("button", { name: /again/i }));
		expect(await screen.findByTitle("A sign-in page")).toBeTruthy();
	});
});
