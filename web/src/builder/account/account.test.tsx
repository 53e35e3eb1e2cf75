import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { describe, expect, it } from "vitest";
import { answering, Refusal, show } from "../../testing";
import type { Team as TeamData } from "../api";
import { Account } from "./Account";
import { Join } from "./Join";
import { SignedIn } from "./SignIn";
import { Team } from "./Team";

const ann = { signedIn: true, second: false, name: "Ann", email: "ann@yard.example" };
const nobody = { signedIn: false, second: false, name: "", email: "" };

const showing = (what: React.ReactNode, answers: Record<string, unknown>) => {
	const asked = answering(answers);
	const sent = (method: string, path: string) =>
		asked.filter((a) => a.method === method && a.path.endsWith(path)).map((a) => a.body);
	return { ...show(what), asked, sent };
};

const front = (answers: Record<string, unknown>) =>
	showing(
		<Routes>
			<Route element={<SignedIn />}>
				<Route path="/" element={<p>The workshop</p>} />
			</Route>
		</Routes>,
		answers,
	);

describe("in front of the builder", () => {
	it("lets through who is signed in", async () => {
		front({ "GET /api/session": ann });
		expect(await screen.findByText("The workshop")).toBeTruthy();
	});

	it("signs in, and says what was wrong", async () => {
		let session = nobody;
		const { person, sent } = front({
			"GET /api/session": () => session,
			"POST /api/sign-in": (a: { body: { password: string } }) => {
				if (a.body.password !== "right") return new Refusal(401, "The email or the password is wrong.");
				session = ann;
				return {};
			},
		});
		await person.type(await screen.findByLabelText("Email"), "ann@yard.example");
		await person.type(screen.getByLabelText("Password"), "wrong{Enter}");
		expect((await screen.findByRole("alert")).textContent).toBe("The email or the password is wrong.");
		await person.clear(screen.getByLabelText("Password"));
		await person.type(screen.getByLabelText("Password"), "right{Enter}");
		expect(await screen.findByText("The workshop")).toBeTruthy();
		expect(sent("POST", "/api/sign-in")[1]).toEqual({ email: "ann@yard.example", password: "right" });
	});

	it("opens the demo only where there is one", async () => {
		const bare = front({ "GET /api/session": nobody });
		await screen.findByLabelText("Email");
		expect(screen.queryByRole("button", { name: /demo/ })).toBeNull();
		bare.unmount();
		const demo = { name: "Marta Alder", email: "marta@yard.example", password: "p" };
		const { person, sent } = front({ "GET /api/session": { ...nobody, demo }, "POST /api/sign-in": {} });
		await person.click(await screen.findByRole("button", { name: "Open the demo as Marta Alder" }));
		await waitFor(() => expect(sent("POST", "/api/sign-in")).toEqual([{ email: "marta@yard.example", password: "p" }]));
	});

	it("makes an account by a code in a mail", async () => {
		const { person, sent } = front({
			"GET /api/session": nobody,
			"POST /api/sign-up": { ticket: "t1" },
			"POST /api/sign-up/confirm": undefined,
			"POST /api/sign-in": {},
		});
		await person.click(await screen.findByRole("button", { name: "Create an account" }));
		await person.type(screen.getByLabelText("Your name"), "Mo");
		await person.type(screen.getByLabelText("Email"), "mo@yard.example");
		await person.type(screen.getByLabelText("Password"), "barnacle-and-orchard");
		await person.click(screen.getByRole("button", { name: "Create account" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456{Enter}");
		await waitFor(() => expect(sent("POST", "/api/sign-in")).toHaveLength(1));
		expect(sent("POST", "/api/sign-up/confirm")).toEqual([{ email: "mo@yard.example", code: "123456", ticket: "t1" }]);
	});

	it("sets a new password by a code, and leads back", async () => {
		const { person, sent } = front({
			"GET /api/session": nobody,
			"POST /api/reset": undefined,
			"POST /api/reset/use": undefined,
		});
		await person.click(await screen.findByRole("button", { name: "Set a new password" }));
		await person.type(screen.getByLabelText("Email"), "ann@yard.example");
		await person.click(screen.getByRole("button", { name: "Send code" }));
		await person.type(await screen.findByLabelText("Code from the email"), "123456");
		await person.type(screen.getByLabelText("New password"), "barnacle-and-orchard");
		await person.click(screen.getByRole("button", { name: "Set password" }));
		expect(await screen.findByRole("heading", { name: "Sign in" })).toBeTruthy();
		expect(sent("POST", "/api/reset/use")).toEqual([
			{ email: "ann@yard.example", code: "123456", password: "barnacle-and-orchard" },
		]);
	});

	it("asks for the second step, which can be given up", async () => {
		let session = { ...nobody, second: true };
		const { person, sent } = front({
			"GET /api/session": () => session,
			"POST /api/sign-in/second": new Refusal(401, "This code is wrong."),
			"POST /api/sign-out": () => {
				session = nobody;
			},
		});
		await person.type(await screen.findByLabelText("Code"), "123456{Enter}");
		expect((await screen.findByRole("alert")).textContent).toBe("This code is wrong.");
		await person.click(screen.getByRole("button", { name: "Cancel" }));
		expect(await screen.findByRole("heading", { name: "Sign in" })).toBeTruthy();
		expect(sent("POST", "/api/sign-in/second")).toEqual([{ code: "123456" }]);
	});
});

describe("an invitation to build", () => {
	const to = { workspace: "Regatta", role: "editor", email: "mo@yard.example" };

	it("that no longer works says so", async () => {
		showing(<Join />, { "GET /api/session": nobody, "POST /api/join/look": new Refusal(422, "gone") });
		expect(await screen.findByRole("heading", { name: "This invitation no longer works" })).toBeTruthy();
	});

	it("is taken with one press by who is signed in", async () => {
		const { person, sent } = showing(<Join />, {
			"GET /api/session": ann,
			"POST /api/join/look": to,
			"POST /api/join": new Refusal(422, "This invitation is for another email."),
		});
		expect(await screen.findByText("You are invited to build in Regatta, as editor.")).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Join" }));
		expect((await screen.findByRole("alert")).textContent).toBe("This invitation is for another email.");
		expect(sent("POST", "/api/join")).toEqual([{ token: "" }]);
	});

	it("makes an account for who has none", async () => {
		const { person, sent } = showing(<Join />, {
			"GET /api/session": nobody,
			"POST /api/join/look": to,
			"POST /api/join/new": undefined,
			"POST /api/sign-in": {},
		});
		await person.type(await screen.findByLabelText("Your name"), "Mo");
		await person.type(screen.getByLabelText("Password"), "barnacle-and-orchard");
		await person.click(screen.getByRole("button", { name: "Join" }));
		await waitFor(() =>
			expect(sent("POST", "/api/sign-in")).toEqual([{ email: "mo@yard.example", password: "barnacle-and-orchard" }]),
		);
		expect(sent("POST", "/api/join/new")).toEqual([{ token: "", name: "Mo", password: "barnacle-and-orchard" }]);
	});
});

describe("a builder’s account", () => {
	const account = (more: object = {}) => ({
		authenticator: false,
		email: "ann@yard.example",
		name: "Ann",
		sessions: [{ id: "s1", agent: "Firefox", here: true, since: "2026-05-01T10:00:00Z", seen: "2026-05-01T10:00:00Z" }],
		...more,
	});

	it("changes the password", async () => {
		const { person, sent } = showing(<Account />, {
			"GET /api/account": account(),
			"POST /api/account/password": undefined,
		});
		await person.type(await screen.findByLabelText("Current password"), "old");
		await person.type(screen.getByLabelText("New password"), "new");
		await person.click(screen.getByRole("button", { name: "Change password" }));
		expect((await screen.findByRole("status")).textContent).toContain("Your password is changed.");
		expect((screen.getByLabelText("New password") as HTMLInputElement).value).toBe("");
		expect(sent("POST", "/api/account/password")).toEqual([{ old: "old", new: "new" }]);
	});

	it("sets an authenticator up, and shows the recovery codes once", async () => {
		const { person, sent } = showing(<Account />, {
			"GET /api/account": account(),
			"POST /api/account/authenticator": { secret: "JBSWY3DP", image: "data:image/png;base64,AA" },
			"POST /api/account/authenticator/use": { codes: ["aaaa-bbbb"] },
		});
		await person.click(await screen.findByRole("button", { name: "Set up authenticator" }));
		expect(await screen.findByText("JBSWY3DP")).toBeTruthy();
		await person.type(screen.getByLabelText("Code from the app"), "123456");
		await person.click(screen.getByRole("button", { name: "Set up" }));
		expect(await screen.findByText("aaaa-bbbb")).toBeTruthy();
		expect(sent("POST", "/api/account/authenticator/use")).toEqual([{ code: "123456" }]);
	});

	it("turns it off with a code", async () => {
		const { person, sent } = showing(<Account />, {
			"GET /api/account": account({ authenticator: true }),
			"POST /api/account/authenticator/drop": new Refusal(422, "This code is wrong."),
		});
		await person.type(await screen.findByLabelText("Code, to turn it off"), "000000");
		await person.click(screen.getByRole("button", { name: "Turn off" }));
		expect((await screen.findByRole("alert")).textContent).toBe("This code is wrong.");
		expect(sent("POST", "/api/account/authenticator/drop")).toEqual([{ code: "000000" }]);
	});

	it("ends other sessions", async () => {
		const other = { id: "s2", agent: "", here: false, since: "2026-05-01T10:00:00Z", seen: "2026-05-01T10:00:00Z" };
		const { person, sent } = showing(<Account />, {
			"GET /api/account": account({ sessions: [...account().sessions, other] }),
			"POST /api/account/sessions/end": undefined,
		});
		await person.click(await screen.findByRole("button", { name: "Sign out" }));
		await person.click(screen.getByRole("button", { name: "Sign out everywhere else" }));
		await waitFor(() => expect(sent("POST", "/sessions/end")).toEqual([{ id: "s2" }, {}]));
	});
});

describe("a team", () => {
	const member = (name: string, role: string) => ({
		id: name.toLowerCase(),
		name,
		email: `${name.toLowerCase()}@yard.example`,
		role,
		since: "2026-05-01T10:00:00Z",
	});
	const team = (more: object = {}) =>
		({
			id: "w1",
			name: "Regatta",
			role: "owner",
			invited: [],
			log: [],
			usage: { apps: 3, mostApps: 50, bytes: 12_300_000, mostBytes: 10_000_000_000 },
			members: [member("Ann", "owner"), member("Ben", "editor")],
			...more,
		}) as unknown as TeamData;
	const page = (t: TeamData, answers: Record<string, unknown> = {}) =>
		showing(<Team />, {
			"GET /api/session": ann,
			"GET /api/workspaces": [{ id: "w1", name: "Regatta", role: t.role }],
			"GET /api/workspaces/w1": t,
			...answers,
		});

	it("lets owners say what members are, and says what went wrong", async () => {
		const { person, sent } = page(team(), {
			"PATCH /members/ben": undefined,
			"PATCH /members/ann": new Refusal(422, "Someone has to own the workspace."),
		});
		await person.selectOptions(await screen.findByLabelText("Role of Ben"), "viewer");
		await waitFor(() => expect(sent("PATCH", "/members/ben")).toEqual([{ role: "viewer" }]));
		await person.selectOptions(screen.getByLabelText("Role of Ann"), "editor");
		expect((await screen.findByRole("alert")).textContent).toBe("Someone has to own the workspace.");
	});

	it("removes a member only when that is confirmed", async () => {
		const { person, sent } = page(team(), { "DELETE /members/ben": undefined });
		const ben = (await screen.findByText("ben@yard.example")).closest("li") as HTMLElement;
		await person.click(within(ben).getByRole("button", { name: "Remove" }));
		const dialog = await screen.findByRole("dialog");
		expect(within(dialog).getByText("Ben will lose access to the apps in Regatta.")).toBeTruthy();
		expect(sent("DELETE", "/members/ben")).toHaveLength(0);
		await person.click(within(dialog).getByRole("button", { name: "Remove" }));
		await waitFor(() => expect(sent("DELETE", "/members/ben")).toHaveLength(1));
	});

	it("shows what is used of what they can have", async () => {
		page(team());
		expect(await screen.findByText("3 of 50")).toBeTruthy();
		expect(screen.getByText("12 MB of 10 GB")).toBeTruthy();
		expect(screen.getByLabelText("Apps").getAttribute("value")).toBe("3");
	});

	it("shows others who builds, and lets them leave", async () => {
		page(team({ role: "editor", members: [member("Ann", "editor"), member("Ben", "owner")] }));
		expect(await screen.findByText("ben@yard.example")).toBeTruthy();
		expect(screen.queryByLabelText("Role of Ben")).toBeNull();
		expect(screen.queryByRole("heading", { name: "Invite someone" })).toBeNull();
		expect(await screen.findAllByRole("button", { name: "Leave" })).toHaveLength(1);
	});

	it("invites by email, and cancels it", async () => {
		const { person, sent } = page(
			team({ invited: [{ id: "i1", email: "lu@yard.example", until: "2026-06-01T10:00:00Z" }] }),
			{
				"POST /invitations": undefined,
				"DELETE /invitations/i1": undefined,
			},
		);
		await person.type(await screen.findByLabelText("Email"), "mo@yard.example");
		await person.selectOptions(screen.getByLabelText("As"), "viewer");
		await person.click(screen.getByRole("button", { name: "Invite" }));
		await waitFor(() => expect(sent("POST", "/invitations")).toEqual([{ email: "mo@yard.example", role: "viewer" }]));
		await person.click(screen.getByRole("button", { name: "Cancel invitation" }));
		await waitFor(() => expect(sent("DELETE", "/invitations/i1")).toHaveLength(1));
	});

	it("makes a workspace, and goes there", async () => {
		const { person, sent } = page(team(), {
			"POST /api/workspaces": { id: "w1", name: "Cup", role: "owner" },
		});
		await person.click(await screen.findByRole("button", { name: "Create a workspace" }));
		await person.type(screen.getByLabelText("Name of the workspace"), "Cup{Enter}");
		await waitFor(() => expect(sent("POST", "/api/workspaces")).toEqual([{ name: "Cup" }]));
		expect(await screen.findByRole("button", { name: "Create a workspace" })).toBeTruthy();
	});
});
