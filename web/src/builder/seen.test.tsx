import { screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { answering, Holding, show } from "../testing";
import type { AppOut } from "./api";
import { SeenAs } from "./SeenAs";
import { roleOf } from "./seen";

const app = {
	id: "a1",
	roles: [
		{ id: "crew", name: "Crew", colour: 1, people: true },
		{ id: "own", name: "Boat owners", colour: 2, people: true },
		{ id: "visitor", name: "Visitors", colour: 3, people: false },
	],
} as unknown as AppOut;

const people = {
	people: [
		{ id: "p1", label: "Ines Calder" },
		{ id: "p2", label: "Tomas Lind" },
	],
};

const seen = (value: string, of: AppOut = app, found: object = people) => {
	const latest = { value };
	const asked = answering({ "GET /people": found });
	const shown = show(
		<Holding latest={{ value: false }}>
			{(open, onOpen) => (
				<Holding latest={latest}>
					{(as, onAs) => <SeenAs app={of} as={as} onAs={onAs} open={open} onOpen={onOpen} />}
				</Holding>
			)}
		</Holding>,
	);
	return { ...shown, asked, latest };
};

const open = async (person: ReturnType<typeof show>["person"]) => {
	await person.click(screen.getByRole("button", { name: /Seen as/ }));
	return within(await screen.findByRole("dialog"));
};

describe("as whom the app is seen", () => {
	it("is the founder at first, and becomes a role", async () => {
		const { person, latest } = seen("founder");
		expect(screen.getByRole("button", { name: "Seen as you, the founder" })).toBeTruthy();
		const choices = await open(person);
		expect(choices.getByRole("button", { name: "You, the founder: everything" }).getAttribute("aria-pressed")).toBe(
			"true",
		);
		await person.click(choices.getByRole("button", { name: "Crew: any of them" }));
		expect(latest.value).toBe("role.crew");
		expect(screen.queryByRole("dialog")).toBeNull();
		expect(screen.getByRole("button", { name: "Seen as Crew" })).toBeTruthy();
	});

	it("can be a visitor, who is nobody in particular", async () => {
		const { person, latest } = seen("founder");
		await person.click((await open(person)).getByRole("button", { name: "Visitors" }));
		expect(latest.value).toBe("visitor");
	});

	it("can be one person, who is searched for by role", async () => {
		const { person, latest, asked } = seen("founder");
		const choices = await open(person);
		expect(within(choices.getByLabelText("Role")).queryByRole("option", { name: "Visitors" })).toBeNull();
		await person.selectOptions(choices.getByLabelText("Role"), "Boat owners");
		await person.type(choices.getByLabelText("Search people"), "ines");
		await waitFor(() => expect(asked.at(-1)?.query.get("search")).toBe("ines"));
		expect(asked.at(-1)?.query.get("role")).toBe("own");
		await person.click(await choices.findByRole("button", { name: "Ines Calder" }));
		expect(latest.value).toBe("person.own.p1");
		expect(await screen.findByRole("button", { name: "Seen as Ines Calder, Boat owners" })).toBeTruthy();
	});

	it("says that nobody was found", async () => {
		const { person } = seen("founder", app, { people: [] });
		expect(await (await open(person)).findByText("No matches.")).toBeTruthy();
	});

	it("says how to have people where no role has any", async () => {
		const { person } = seen("founder", { ...app, roles: app.roles?.filter((r) => !r.people) } as AppOut);
		expect((await open(person)).getByText(/go to People and choose the table/)).toBeTruthy();
	});

	it("belongs to a role, or to none", () => {
		expect(roleOf(app, "founder")).toBeUndefined();
		expect(roleOf(app, "role.crew")?.name).toBe("Crew");
		expect(roleOf(app, "person.own.p1")?.name).toBe("Boat owners");
		expect(roleOf(app, "visitor")?.name).toBe("Visitors");
		expect(roleOf(app, "role.gone")).toBeUndefined();
	});
});
