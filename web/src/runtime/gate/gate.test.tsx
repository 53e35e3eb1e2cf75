import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it } from "vitest";
import { answering, Refusal, show } from "../../testing";
import { block } from "../blocks/sample";
import type { App } from "../place";
import { forgetAllUnsent } from "../unsent";
import type { Gate, SignUp as SignUpRole } from "./api";
import { SignIn, SignInForm } from "./SignIn";
import { Reset, SignUp } from "./SignUp";
import { Unsubscribe } from "./Unsubscribe";

const app = {
	name: "Loft",
	theme: "harbour",
	look: {},
	faces: [],
	menu: [],
	person: "",
	signedIn: false,
	canSignIn: true,
	canSignUp: true,
	locked: false,
} as unknown as App;

const question = (id: string, name: string, required: boolean) => ({
	id: `q_${id}`,
	column: { id, table: "sailor", name, type: "text", kind: "text", entered: true },
	required,
	value: null,
});

/** What a role asks those who sign up. */
const asks = (id: string, ...questions: ReturnType<typeof question>[]) =>
	block({
		id,
		kind: "form",
		revision: 0,
		live: false,
		order: questions.map((q) => ({ id: q.id })),
		state: { parts: Object.fromEntries(questions.map((q) => [q.id, { required: q.required }])), questions, blocks: [] },
	});

const role = (more: Partial<SignUpRole> = {}): SignUpRole => ({
	role: "r",
	name: "Sailors",
	approved: false,
	path: "r:sign-up",
	form: asks("r:sign-up", question("s_name", "Name", true), question("s_boat", "Boat", false)),
	...more,
});

const gate = (more: Partial<Gate> = {}): Gate => ({
	app,
	finds: [],
	mailed: false,
	must: false,
	password: false,
	remember: true,
	signUps: [],
	state: "",
	terms: { version: "", text: "", privacy: "" },
	ways: ["code"],
	words: {
		"sign-in title": "Come in",
		"sign-in text": "Welcome to the loft.",
		"sent text": "Look into your mail.",
		"sign-up title": "Join the loft",
		"sign-up text": "Tell us who you are.",
		"waiting text": "We’ll look at it.",
		"refusal title": "Not this time",
	},
	...more,
});

const form = (g: Gate, answers: Record<string, unknown> = {}) => {
	const asked = answering({ "GET /gate": g, ...answers });
	const came = { in: 0 };
	const shown = show(<SignInForm onDone={() => came.in++} />);
	return { ...shown, asked, came };
};

const sent = (asked: { method: string; path: string; body: unknown }[], path: string) =>
	asked.filter((a) => a.method === "POST" && a.path.endsWith(path)).map((a) => a.body);

beforeEach(() => forgetAllUnsent());

describe("signing in with a code", () => {
	it("sends one, takes it, and lets in", async () => {
		const { person, asked, came } = form(gate(), {
			"POST /sign-in/code": undefined,
			"POST /sign-in": { next: "in" },
		});
		await person.type(await screen.findByLabelText("Your email"), " ines@sails.example ");
		await person.click(screen.getByLabelText("Remember me on this device"));
		await person.click(screen.getByRole("button", { name: "Send code" }));
		const code = await screen.findByLabelText("Code from the email");
		expect(screen.getByText("Look into your mail.")).toBeTruthy();
		expect(document.activeElement).toBe(code);
		await person.type(code, "123456{Enter}");
		await waitFor(() => expect(came.in).toBe(1));
		expect(sent(asked, "/sign-in/code")).toEqual([{ email: "ines@sails.example" }]);
		expect(sent(asked, "/sign-in")).toEqual([{ email: "ines@sails.example", code: "123456", remember: true }]);
	});

	it("says that a code is wrong, and lets another email be tried", async () => {
		const { person, came } = form(gate(), {
			"POST /sign-in/code": undefined,
			"POST /sign-in": new Refusal(422, "This code is wrong or too old."),
		});
		await person.type(await screen.findByLabelText("Your email"), "ines@sails.example");
		await person.click(screen.getByRole("button", { name: "Send code" }));
		await person.type(await screen.findByLabelText("Code from the email"), "000000{Enter}");
		expect((await screen.findByRole("alert")).textContent).toBe("This code is wrong or too old.");
		expect(came.in).toBe(0);
		expect((screen.getByRole("button", { name: /Send again in/ }) as HTMLButtonElement).disabled).toBe(true);
		await person.click(screen.getByRole("button", { name: "Use another email" }));
		expect((screen.getByLabelText("Your email") as HTMLInputElement).value).toBe("ines@sails.example");
		expect(screen.queryByRole("alert")).toBeNull();
	});

	it("tells in the app’s words who does not get in", async () => {
		const { person } = form(gate(), {
			"POST /sign-in/code": undefined,
			"POST /sign-in": new Refusal(403, "The season is over."),
		});
		await person.type(await screen.findByLabelText("Your email"), "ruth@sails.example");
		await person.click(screen.getByRole("button", { name: "Send code" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456{Enter}");
		const refusal = await screen.findByRole("alert");
		expect(within(refusal).getByRole("heading").textContent).toBe("Not this time");
		expect(within(refusal).getByText("The season is over.")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Sign in as someone else" }));
		expect(await screen.findByLabelText("Your email")).toBeTruthy();
	});

	it("does not offer to remember where the app does not", async () => {
		form(gate({ remember: false }));
		await screen.findByLabelText("Your email");
		expect(screen.queryByLabelText("Remember me on this device")).toBeNull();
	});
});

describe("other ways in", () => {
	it("offers what the app has, and the first one at first", async () => {
		const { person } = form(gate({ ways: ["password", "code", "link", "fields"], signUps: [role()] }));
		expect(await screen.findByLabelText("Password")).toBeTruthy();
		expect(screen.queryByRole("button", { name: "Use details from my record instead" })).toBeNull();
		expect(screen.getByRole("link", { name: "Join the loft" })).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Email me a link instead" }));
		expect(screen.queryByLabelText("Password")).toBeNull();
		expect(screen.getByRole("button", { name: "Send link" })).toBeTruthy();
	});

	it("takes a password", async () => {
		const { person, asked, came } = form(gate({ ways: ["password"] }), {
			"POST /sign-in/password": { next: "in" },
		});
		await person.type(await screen.findByLabelText("Your email"), "ines@sails.example");
		await person.type(screen.getByLabelText("Password"), " with spaces ");
		await person.click(screen.getByRole("button", { name: "Sign in" }));
		await waitFor(() => expect(came.in).toBe(1));
		expect(sent(asked, "/sign-in/password")).toEqual([
			{ email: "ines@sails.example", password: " with spaces ", remember: false },
		]);
	});

	it("mails a link, and says so", async () => {
		const { person, asked } = form(gate({ ways: ["link"] }), { "POST /sign-in/link": undefined });
		await person.type(await screen.findByLabelText("Your email"), "ines@sails.example");
		await person.click(screen.getByRole("button", { name: "Send link" }));
		expect(await screen.findByText("Look into your mail.")).toBeTruthy();
		expect(sent(asked, "/sign-in/link")).toEqual([{ email: "ines@sails.example" }]);
	});

	it("asks for details of a record, by role", async () => {
		const finds = [
			{ role: "r", name: "Sailors", labels: ["Name", "Sail number"] },
			{ role: "j", name: "Judges", labels: ["Licence"] },
		];
		const { person, asked, came } = form(gate({ ways: ["fields"], finds }), {
			"POST /sign-in/fields": undefined,
			"POST /sign-in/fields/use": { next: "in" },
		});
		await person.type(await screen.findByLabelText("Name"), "Ines");
		await person.type(screen.getByLabelText("Sail number"), "GER 7");
		await person.click(screen.getByRole("button", { name: "Send code" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456{Enter}");
		await waitFor(() => expect(came.in).toBe(1));
		expect(sent(asked, "/sign-in/fields")).toEqual([{ role: "r", answers: ["Ines", "GER 7"] }]);
		expect(sent(asked, "/sign-in/fields/use")).toEqual([
			{ role: "r", answers: ["Ines", "GER 7"], code: "123456", remember: false },
		]);
	});

	it("asks other roles for other details", async () => {
		const finds = [
			{ role: "r", name: "Sailors", labels: ["Name"] },
			{ role: "j", name: "Judges", labels: ["Licence"] },
		];
		const { person } = form(gate({ ways: ["fields"], finds }));
		await person.selectOptions(await screen.findByLabelText("You are one of"), "Judges");
		expect(screen.getByLabelText("Licence")).toBeTruthy();
		expect(screen.queryByLabelText("Name")).toBeNull();
	});
});

describe("a second step", () => {
	it("asks for the code of the authenticator, or a recovery code", async () => {
		const { person, asked, came } = form(gate({ state: "second" }), { "POST /sign-in/second": { next: "in" } });
		const code = await screen.findByLabelText("Code");
		await person.type(code, "abcd-efgh-ijkl-mnop{Enter}");
		await waitFor(() => expect(came.in).toBe(1));
		expect(sent(asked, "/sign-in/second")).toEqual([{ code: "abcd-efgh-ijkl-mnop" }]);
		expect(screen.queryByRole("button", { name: /Send again/ })).toBeNull();
	});

	it("has been mailed where the app says so, and can be given up", async () => {
		const { person, asked } = form(gate({ state: "second", mailed: true }), { "POST /sign-out": undefined });
		expect(await screen.findByText("We emailed you a code.")).toBeTruthy();
		expect(screen.getByRole("button", { name: /Send again in/ })).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Cancel" }));
		await waitFor(() => expect(sent(asked, "/sign-out")).toHaveLength(1));
	});

	it("sets an authenticator up, and goes on when the recovery codes are kept", async () => {
		const { person, asked, came } = form(gate({ state: "enrol" }), {
			"POST /sign-in/authenticator": { secret: "JBSWY3DP", image: "data:image/png;base64,AA" },
			"POST /sign-in/authenticator/use": { next: "in", recovery: ["aaaa-bbbb", "cccc-dddd"] },
		});
		expect(await screen.findByText("JBSWY3DP")).toBeTruthy();
		await person.type(screen.getByLabelText("Code from the app"), "123456{Enter}");
		expect(await screen.findByText("aaaa-bbbb")).toBeTruthy();
		expect(came.in).toBe(0);
		await person.click(screen.getByRole("button", { name: "I have kept them" }));
		expect(came.in).toBe(1);
		expect(sent(asked, "/sign-in/authenticator/use")).toEqual([{ code: "123456" }]);
	});
});

describe("signing up", () => {
	const page = (g: Gate, answers: Record<string, unknown> = {}) => {
		const asked = answering({ "GET /gate": g, ...answers });
		const shown = show(
			<Routes>
				<Route path="/~/sign-up" element={<SignUp />} />
				<Route path="/~/sign-in" element={<p>The way in</p>} />
				<Route path="/" element={<p>At home</p>} />
			</Routes>,
			"/~/sign-up",
		);
		return { ...shown, asked };
	};

	it("is not there where nobody can", async () => {
		page(gate());
		expect(await screen.findByText("There is no sign-up here.")).toBeTruthy();
	});

	it("asks the questions of the role, and confirms the email", async () => {
		const { person, asked } = page(
			gate({ signUps: [role()], terms: { version: "3", text: "Be kind.", privacy: "" } }),
			{
				"POST /sign-up": { ticket: "t1" },
				"POST /sign-up/confirm": { next: "in" },
			},
		);
		await person.type(await screen.findByLabelText("Your email"), "mo@sails.example");
		await person.type(screen.getByLabelText("Name"), "Mo");
		await person.click(screen.getByLabelText("I accept the terms."));
		await person.click(screen.getByRole("button", { name: "Continue" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456");
		await person.click(screen.getByRole("button", { name: "Confirm" }));
		expect(await screen.findByText("At home")).toBeTruthy();
		expect(sent(asked, "/sign-up")).toEqual([
			{ role: "r", email: "mo@sails.example", values: { s_name: "Mo", s_boat: null }, terms: "3" },
		]);
		expect(sent(asked, "/sign-up/confirm")).toEqual([{ email: "mo@sails.example", code: "123456", ticket: "t1" }]);
	});

	it("shows mistakes at their questions", async () => {
		const { person } = page(gate({ signUps: [role()] }), {
			"POST /sign-up": new Refusal(422, "Some answers are not right.", [
				{ location: "s_name", message: "Fill this in." },
			]),
		});
		await person.click(await screen.findByRole("button", { name: "Continue" }));
		expect(await screen.findByText("Fill this in.")).toBeTruthy();
		expect(screen.getByLabelText("Name").getAttribute("aria-invalid")).toBe("true");
		expect(screen.getByLabelText("Boat (optional)").getAttribute("aria-invalid")).not.toBe("true");
	});

	it("requests access where somebody approves, and says that they wait", async () => {
		const { person } = page(gate({ signUps: [role({ approved: true })] }), {
			"POST /sign-up": { ticket: "t1" },
			"POST /sign-up/confirm": { next: "waiting" },
		});
		await person.type(await screen.findByLabelText("Your email"), "mo@sails.example");
		await person.click(screen.getByRole("button", { name: "Request access" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456{Enter}");
		expect(await screen.findByText("We’ll look at it.")).toBeTruthy();
		expect(screen.getByRole("link", { name: "Go to the home page" })).toBeTruthy();
	});

	it("leads back to the details", async () => {
		const { person } = page(gate({ signUps: [role()] }), { "POST /sign-up": { ticket: "t1" } });
		await person.type(await screen.findByLabelText("Your email"), "mo@sails.example");
		await person.type(screen.getByLabelText("Name"), "Mo");
		await person.click(screen.getByRole("button", { name: "Continue" }));
		await person.click(await screen.findByRole("button", { name: "Back" }));
		expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe("Mo");
	});

	it("asks which role, where there are several", async () => {
		const judges = role({
			role: "j",
			name: "Judges",
			path: "j:sign-up",
			form: asks("j:sign-up", question("j_licence", "Licence", true)),
		});
		const { person, asked } = page(gate({ signUps: [role(), judges] }), { "POST /sign-up": { ticket: "t" } });
		await person.type(await screen.findByLabelText("Name"), "Mo");
		await person.selectOptions(screen.getByLabelText("You sign up as one of"), "Judges");
		await person.type(screen.getByLabelText("Licence"), "7");
		await person.click(screen.getByRole("button", { name: "Continue" }));
		await screen.findByLabelText("Code from the email");
		expect(sent(asked, "/sign-up")).toEqual([{ role: "j", email: "", values: { j_licence: "7" } }]);
	});
});

describe("the pages of the gate", () => {
	it("leads to where somebody was going", async () => {
		answering({
			"GET /gate": gate({ ways: ["password"] }),
			"POST /sign-in/password": { next: "in" },
		});
		const { person } = show(
			<Routes>
				<Route path="/~/sign-in" element={<SignIn />} />
				<Route path="/" element={<p>At home</p>} />
			</Routes>,
			"/~/sign-in",
		);
		expect(await screen.findByRole("heading", { level: 1, name: "Come in" })).toBeTruthy();
		expect(document.title).toContain("Come in");
		await person.click(screen.getByRole("button", { name: "Sign in" }));
		expect(await screen.findByText("At home")).toBeTruthy();
	});

	it("sets a password by a code", async () => {
		const asked = answering({
			"GET /gate": gate(),
			"POST /reset": undefined,
			"POST /reset/use": undefined,
		});
		const { person } = show(<Reset />);
		await person.type(await screen.findByLabelText("Your email"), "ines@sails.example");
		await person.click(screen.getByRole("button", { name: "Send code" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456");
		await person.type(screen.getByLabelText("New password"), "barnacle-and-orchard");
		await person.click(screen.getByRole("button", { name: "Set password" }));
		expect(await screen.findByRole("heading", { name: "Your password is set" })).toBeTruthy();
		expect(sent(asked, "/reset/use")).toEqual([
			{ email: "ines@sails.example", code: "123456", password: "barnacle-and-orchard" },
		]);
	});
});

describe("unsubscribing", () => {
	const open = (answers: Record<string, unknown>) => {
		const asked = answering({ "GET /gate": gate(), ...answers });
		return { ...show(<Unsubscribe />, "/#token=abc"), asked };
	};

	it("is asked before, and can be taken back", async () => {
		const { person, asked } = open({
			"POST /unsubscribe/look": { address: "ines@sails.example", name: "Yard news" },
			"POST /unsubscribe": undefined,
		});
		expect(await screen.findByText("“Yard news” emails go to ines@sails.example.")).toBeTruthy();
		expect(sent(asked, "/unsubscribe")).toEqual([]);
		await person.click(screen.getByRole("button", { name: "Unsubscribe" }));
		expect(await screen.findByText("“Yard news” emails no longer go to ines@sails.example.")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Subscribe again" }));
		await screen.findByText("“Yard news” emails go to ines@sails.example.");
		expect(sent(asked, "/unsubscribe")).toEqual([
			{ token: "abc", back: false },
			{ token: "abc", back: true },
		]);
	});

	it("says what to do about a link that was cut", async () => {
		open({ "POST /unsubscribe/look": new Refusal(404, "Not found") });
		expect(await screen.findByText("This link doesn’t work")).toBeTruthy();
	});
});
