import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { type Asked, answering, Refusal } from "../../../testing";
import { forgetAllUnsent, noticePerson } from "../../unsent";
import { block, name, one } from "../sample";

const text = (id: string, label: string, more: object = {}) => ({
	id: `q_${id}`,
	column: { ...name, id, name: label },
	value: null,
	...more,
});
const berth = {
	id: "q_berth",
	column: { ...name, id: "berth", name: "Berth", type: "link", kind: "record" },
	value: null,
};

const places = (...ids: string[]) => ids.map((id) => ({ id }));

const form = (more: object = {}) =>
	block({
		kind: "form",
		submit: "",
		revision: 0,
		live: true,
		order: places("q_kind", "words", "q_make", "q_berth"),
		state: { parts: { q_kind: {}, q_berth: {} }, questions: [text("kind", "Kind"), berth], blocks: [] },
		...more,
	});

/** A server that asks for the make of an engine, offers it no berth but B, and does not like the make X. */
function server() {
	return answering({
		"POST /forms/b1/state": ({ body }: Asked) => {
			const engine = body.answers.kind === "engine";
			const options = engine
				? [{ id: "b", label: "B" }]
				: [
						{ id: "a", label: "A" },
						{ id: "b", label: "B" },
					];
			const cleared = engine && body.answers.berth === "a" ? "A does not fit." : undefined;
			const make = { required: true, wrong: body.answers.make === "X" ? "There is no X." : undefined };
			return {
				parts: { q_kind: {}, q_berth: { options, cleared }, ...(engine && { words: {}, q_make: make }) },
				questions: engine && !body.have.includes("q_make") ? [text("make", "Make", { help: "As it says" })] : [],
				blocks: engine && !body.have.includes("words") ? [{ id: "words", kind: "text", html: "<p>About it</p>" }] : [],
			};
		},
		"POST /forms/b1": { thanks: "Thank you." },
	});
}

const filled = (label: string | RegExp) => (screen.getByLabelText(label) as HTMLInputElement).value;

beforeEach(() => forgetAllUnsent());

describe("choices that depend on answers", () => {
	it("are those alone that fit", async () => {
		const cloth = {
			id: "q_cloth",
			column: {
				...name,
				id: "cloth",
				name: "Cloth",
				type: "choice",
				kind: "choice",
				choices: [
					{ id: "d", label: "Dacron" },
					{ id: "l", label: "Laminate" },
				],
			},
			value: null,
		};
		answering({
			"POST /forms/b1/state": ({ body }: Asked) => ({
				parts: { q_kind: {}, q_cloth: { choices: body.answers.kind === "x" ? ["l"] : ["d", "l"] } },
				questions: [],
				blocks: [],
			}),
		});
		const { person } = one(
			form({
				order: places("q_kind", "q_cloth"),
				state: {
					parts: { q_kind: {}, q_cloth: { choices: ["d", "l"] } },
					questions: [text("kind", "Kind"), cloth],
					blocks: [],
				},
			}),
		);
		const offered = () => screen.getAllByRole("option").map((o) => o.textContent);
		await screen.findByLabelText(/Cloth/);
		expect(offered()).toEqual(["", "Dacron", "Laminate"]);
		await person.type(screen.getByLabelText(/Kind/), "x");
		await waitFor(() => expect(offered()).toEqual(["", "Laminate"]));
	});
});

describe("a form that a button opens", () => {
	it("stands in a dialog, keeps what was answered while that is closed, and thanks beside the button", async () => {
		const asked = server();
		const { person } = one(form({ opens: "Add an engine" }));
		await person.click(await screen.findByRole("button", { name: "Add an engine" }));
		await person.type(await screen.findByLabelText(/Kind/), "diesel");
		await person.keyboard("{Escape}");
		await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
		await person.click(screen.getByRole("button", { name: "Add an engine" }));
		expect((await screen.findByRole("dialog")).textContent).toContain("still here");
		expect(filled(/Kind/)).toBe("diesel");
		await person.click(screen.getByRole("button", { name: "Send" }));
		expect((await screen.findByText("Thank you.")).getAttribute("role")).toBe("status");
		expect(screen.queryByRole("dialog")).toBeNull();
		expect(asked.find((a) => a.body.key)?.body.values.kind).toBe("diesel");
		await person.click(screen.getByRole("button", { name: "Add an engine" }));
		expect(await screen.findByLabelText(/Kind/)).toBeTruthy();
		expect(filled(/Kind/)).toBe("");
	});
});

describe("a form that follows its answers", () => {
	it("asks more, with words between, and sends only what is asked", async () => {
		const asked = server();
		const { person } = one(form());
		await person.type(await screen.findByLabelText(/Kind/), "engine");
		expect(await screen.findByText("About it")).toBeTruthy();
		await person.type(screen.getByLabelText("Make"), "Kestrel");
		expect(screen.getByText("As it says")).toBeTruthy();
		await waitFor(() => expect(asked.at(-1)?.body.answers.make).toBe("Kestrel"));
		expect(asked.at(-1)?.body.have).toContain("q_make");
		await person.clear(screen.getByLabelText(/Kind/));
		await waitFor(() => expect(screen.queryByText("About it")).toBeNull());
		await person.click(screen.getByRole("button", { name: "Send" }));
		const sent = () => asked.find((a) => a.body.key);
		await waitFor(() => expect(sent()).toBeTruthy());
		expect(sent()?.body.values).toEqual({ kind: null, berth: null });
	});

	it("says what is wrong once one has gone on, and not before", async () => {
		const asked = server();
		const { person } = one(form());
		await person.type(await screen.findByLabelText(/Kind/), "engine");
		await person.type(await screen.findByLabelText("Make"), "X");
		await waitFor(() => expect(asked.at(-1)?.body.answers.make).toBe("X"));
		expect(screen.queryByText("There is no X.")).toBeNull();
		await person.click(screen.getByLabelText(/Kind/));
		expect(await screen.findByText("There is no X.")).toBeTruthy();
		await person.type(screen.getByLabelText("Make"), "Y");
		await waitFor(() => expect(screen.queryByText("There is no X.")).toBeNull());
	});

	it("takes away what does not fit any more, and says so until something else is chosen", async () => {
		const asked = server();
		const { person } = one(form());
		await person.type(await screen.findByLabelText(/Kind/), "oar");
		await screen.findByRole("option", { name: "A" });
		await person.selectOptions(screen.getByLabelText(/Berth/), "a");
		await person.clear(screen.getByLabelText(/Kind/));
		await person.type(screen.getByLabelText(/Kind/), "engine");
		expect(await screen.findByText("A does not fit.")).toBeTruthy();
		expect(filled(/Berth/)).toBe("");
		await waitFor(() => expect(asked.at(-1)?.body.answers.berth).toBeNull());
		expect(screen.getByText("A does not fit.")).toBeTruthy();
		await person.selectOptions(screen.getByLabelText(/Berth/), "b");
		expect(screen.queryByText("A does not fit.")).toBeNull();
		expect(filled(/Kind/), "what is typed is never changed").toBe("engine");
	});
});

describe("a choice that is all there", () => {
	it("is a group with a name, chosen by keys as well, and can be none", async () => {
		const choices = [
			{ id: "k1", label: "Hull", retired: false },
			{ id: "k2", label: "Engine", retired: false },
			{ id: "k3", label: "Gone", retired: true },
		];
		const kind = text("kind", "Kind", {
			ask: "buttons",
			column: { ...name, id: "kind", name: "Kind", type: "choice", choices },
		});
		const sure = text("sure", "Sure", {
			ask: "radio",
			column: { ...name, id: "sure", name: "Sure", type: "yes/no", kind: "yes/no" },
		});
		const asked = server();
		const state = { parts: { q_kind: {}, q_sure: { required: true } }, questions: [kind, sure], blocks: [] };
		const { person } = one(form({ live: false, order: places("q_kind", "q_sure"), state }));
		expect(await screen.findByRole("radiogroup", { name: /Kind/ })).toBeTruthy();
		expect(screen.queryByText("Gone")).toBeNull();
		await person.click(screen.getByLabelText("Hull"));
		await person.keyboard("{ArrowRight}");
		expect((screen.getByLabelText("Engine") as HTMLInputElement).checked).toBe(true);
		await person.click(screen.getByLabelText("No"));
		await person.click(screen.getByRole("button", { name: "Choose none" }));
		await person.click(screen.getByRole("button", { name: "Send" }));
		await waitFor(() => expect(asked.find((a) => a.body.key)?.body.values).toEqual({ kind: null, sure: false }));
	});
});

describe("answers that were not sent", () => {
	const plain = () =>
		form({
			live: false,
			order: places("q_kind"),
			state: { parts: { q_kind: {} }, questions: [text("kind", "Kind")], blocks: [] },
		});

	it("are there after a reload, can be thrown away, and are gone once they are sent", async () => {
		server();
		let { person } = one(plain());
		await person.type(await screen.findByLabelText(/Kind/), "oar");
		cleanup();
		({ person } = one(plain()));
		await waitFor(() => expect(filled(/Kind/)).toBe("oar"));
		await person.click(screen.getByRole("button", { name: "Start over" }));
		expect(filled(/Kind/)).toBe("");
		await person.type(screen.getByLabelText(/Kind/), "sail");
		await person.click(screen.getByRole("button", { name: "Send" }));
		await waitFor(() => expect(filled(/Kind/)).toBe(""));
		cleanup();
		one(plain());
		expect(await screen.findByLabelText(/Kind/)).toBeTruthy();
		expect(filled(/Kind/)).toBe("");
	});

	it("are not found by somebody else, and are by whoever signs in again", async () => {
		server();
		noticePerson("ines@sail.example");
		const { person } = one(plain());
		await person.type(await screen.findByLabelText(/Kind/), "oar");
		cleanup();
		noticePerson(""); // the session has ended
		noticePerson("ines@sail.example");
		one(plain());
		await waitFor(() => expect(filled(/Kind/)).toBe("oar"));
		cleanup();
		noticePerson("tomas@sail.example");
		one(plain());
		expect(await screen.findByLabelText(/Kind/)).toBeTruthy();
		expect(filled(/Kind/)).toBe("");
	});
});

describe("numbers that are asked for otherwise", () => {
	const number = { ...name, type: "number", kind: "number", most: 5 };
	const state = {
		parts: { q_stars: {}, q_bar: { required: true } },
		questions: [
			{ id: "q_stars", ask: "stars", column: { ...number, id: "stars", name: "Stars" }, value: null },
			{ id: "q_bar", ask: "slider", column: { ...number, id: "bar", name: "Bar", most: 100 }, value: "20" },
		],
		blocks: [],
	};

	it("are stars and sliders, by keys as well, and can be none", async () => {
		const asked = answering({ "POST /forms/b1": { thanks: "Thank you." } });
		const { person } = one(form({ live: false, order: places("q_stars", "q_bar"), state }));
		await person.click(await screen.findByRole("radio", { name: "3 of 5" }));
		await person.keyboard("{ArrowRight}");
		expect((screen.getByRole("radio", { name: "4 of 5" }) as HTMLInputElement).checked).toBe(true);
		expect(screen.getByRole("radiogroup", { name: /Stars/ })).toBeTruthy();
		await person.click(screen.getByRole("button", { name: "Choose none" }));
		await person.click(screen.getByRole("radio", { name: "2 of 5" }));
		fireEvent.change(screen.getByLabelText("Bar"), { target: { value: "35" } });
		await person.click(screen.getByRole("button", { name: "Send" }));
		await waitFor(() => expect(asked[0]?.body.values).toEqual({ stars: "2", bar: "35" }));
	});
});

describe("the key of a form", () => {
	const state = { parts: { q_kind: {} }, questions: [text("kind", "Kind")], blocks: [] };
	const shown = () => one(form({ live: false, order: places("q_kind"), state }));

	it("is the same in another tab with the same answers, and another once the server refused one", async () => {
		let refused = true;
		const asked = answering({
			"POST /forms/b1": () => (refused ? new Refusal(422, "Check the answers.") : { thanks: "Thank you." }),
		});
		const { person } = shown();
		await person.type(await screen.findByLabelText(/Kind/), "hull");
		cleanup();
		const before = Object.values(sessionStorage).join();
		const other = shown(); // as a tab that is opened beside it keeps what this one had kept
		await other.person.click(await screen.findByRole("button", { name: "Send" }));
		expect(await screen.findByText("Check the answers.")).toBeTruthy();
		refused = false;
		await other.person.click(screen.getByRole("button", { name: "Send" }));
		await waitFor(() => expect(asked.length).toBe(2));
		const kept = asked.map((a) => a.body.key);
		expect(kept[0]).toMatch(/^[0-9a-f]{32}$/);
		expect(before).toContain(kept[0]);
		expect(kept[1]).not.toBe(kept[0]);
	});
});

describe("a form that is refused late", () => {
	it("says nothing of an answer that is another by then", async () => {
		let refuse: (answer: unknown) => void = () => {};
		const late = new Promise((done) => {
			refuse = done;
		});
		answering({
			"POST /forms/b1": async () => {
				await late;
				return new Refusal(422, "Check the answers.", [
					{ location: "kind", message: "Not this kind." },
					{ location: "berth", message: "Not this berth." },
				]);
			},
		});
		const state = {
			parts: { q_kind: {}, q_berth: {} },
			questions: [text("kind", "Kind"), text("berth", "Berth")],
			blocks: [],
		};
		const { person } = one(form({ live: false, order: places("q_kind", "q_berth"), state }));
		await person.type(await screen.findByLabelText(/Kind/), "hull");
		await person.click(screen.getByRole("button", { name: "Send" }));
		await person.type(screen.getByLabelText(/Kind/), "s");
		refuse(undefined);
		expect(await screen.findByText("Not this berth.")).toBeTruthy();
		expect(screen.queryByText("Not this kind.")).toBeNull();
	});
});

describe("a form in steps", () => {
	const steps = () =>
		form({
			review: true,
			order: [
				{ id: "one", step: true, of: places("q_kind") },
				{ id: "two", step: true, of: [{ id: "part", of: places("q_berth") }] },
			],
			state: {
				parts: { one: { title: "You" }, q_kind: {} },
				questions: [text("kind", "Kind")],
				blocks: [],
			},
		});

	/** A server that needs a kind, and asks for a berth in a second step once there is an engine. */
	const server = () =>
		answering({
			"POST /forms/b1/state": ({ body }: Asked) => {
				const engine = body.answers.kind === "engine";
				return {
					parts: {
						one: { title: "You" },
						q_kind: { missing: body.answers.kind ? undefined : "Fill this in." },
						...(engine && {
							two: { title: "Engine" },
							part: { title: "Where" },
							q_berth: { options: [{ id: "b", label: "B" }], labels: body.answers.berth && ["B"] },
						}),
					},
					questions: engine && !body.have.includes("q_berth") ? [berth] : [],
					blocks: [],
				};
			},
			"POST /forms/b1": { thanks: "Thank you." },
		});

	it("goes on once a step is right, comes back, and sends what was looked over", async () => {
		const asked = server();
		const { person } = one(steps());
		await person.click(await screen.findByRole("button", { name: "Next" }));
		expect(await screen.findByText("Fill this in.")).toBeTruthy();
		expect(document.activeElement).toBe(screen.getByLabelText(/Kind/));
		await person.type(screen.getByLabelText(/Kind/), "engine");
		await person.click(screen.getByRole("button", { name: "Next" }));
		expect(await screen.findByRole("heading", { name: "Engine" })).toBe(document.activeElement);
		expect(screen.getByRole("heading", { name: "Where" })).toBeTruthy();
		await person.selectOptions(screen.getByLabelText(/Berth/), "b");
		await person.click(screen.getByRole("button", { name: "Back" }));
		expect(filled(/Kind/)).toBe("engine");
		await person.click(screen.getByRole("button", { name: "Next" }));
		expect((await screen.findByLabelText(/Berth/)) as HTMLSelectElement).toHaveProperty("value", "b");
		await person.click(screen.getByRole("button", { name: "Next" }));
		const list = await screen.findByRole("heading", { name: "Check" });
		await waitFor(() => expect(list.closest("form")?.textContent).toContain("BerthB"));
		expect(asked.some((a) => a.body.key)).toBe(false);
		await person.click(screen.getByRole("button", { name: "Send" }));
		await waitFor(() => expect(asked.find((a) => a.body.key)?.body.values).toEqual({ kind: "engine", berth: "b" }));
	});

	it("counts only steps that are shown", async () => {
		server();
		const { person } = one(steps());
		expect(await screen.findByText("Step 1 of 2")).toBeTruthy();
		await person.type(screen.getByLabelText(/Kind/), "engine");
		expect(await screen.findByText("Step 1 of 3")).toBeTruthy();
	});
});
