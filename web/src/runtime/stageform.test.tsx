import { act, createEvent, fireEvent, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../testing";
import { block, name } from "./blocks/sample";
import type { Page } from "./place";
import StageBlocks from "./StageBlocks";
import * as stage from "./stage";

vi.mock("./stage", async (original) => ({
	...(await original<typeof stage>()),
	tellBlock: vi.fn(),
	tellMove: vi.fn(),
	tellAdd: vi.fn(),
	tellRemove: vi.fn(),
}));

beforeEach(() => vi.clearAllMocks());

const question = (id: string) => ({ id, column: { ...name, id: `f_${id}`, name: `Field ${id}` }, value: null });

/** A form with two questions and a section with two more, of which one is hidden by now. */
const form = block({
	id: "F",
	kind: "form",
	submit: "",
	revision: 0,
	live: false,
	order: [{ id: "a" }, { id: "b" }, { id: "s", of: [{ id: "c" }, { id: "hidden" }, { id: "d" }] }],
	state: {
		parts: { a: {}, b: {}, s: { title: "More" }, c: {}, d: {} },
		questions: ["a", "b", "c", "d"].map(question),
		blocks: [],
	},
});

const shown = async () => {
	const it = show(
		<StageBlocks page={{ id: "pg", blocks: [form] } as unknown as Page} where={{ path: "p", record: "" }} />,
	);
	await screen.findByLabelText(/Field a/);
	return it;
};

/** What stands around a question or a section. */
const around = (id: string) =>
	(id === "s" ? screen.getByText("More") : screen.getByLabelText(new RegExp(`Field ${id}`))).closest(
		".stage-question",
	) as HTMLElement;

/** Drops something of a form upon something, in its upper half or its lower one. */
function drop(id: string, on: HTMLElement, low = false, of = "f") {
	on.getBoundingClientRect = () => ({ top: 0, height: 40 }) as DOMRect;
	const kind = `application/x-pinegate-form-${of}`;
	for (const event of [createEvent.dragOver(on), createEvent.drop(on)]) {
		Object.defineProperty(event, "dataTransfer", { value: { getData: () => id, types: [kind] } });
		Object.defineProperty(event, "clientY", { value: low ? 30 : 10 });
		fireEvent(on, event);
	}
}

describe("a form on the stage", () => {
	it("has its questions dragged into order, and into sections and out of them", async () => {
		await shown();
		drop("a", around("b"), true);
		expect(stage.tellMove).toHaveBeenLastCalledWith("a", 1);
		drop("b", around("a"));
		expect(stage.tellMove).toHaveBeenLastCalledWith("b", 0);
		drop("a", around("d"));
		expect(stage.tellMove).toHaveBeenLastCalledWith("a", 2, "s"); // what is hidden by now has its place
		drop("c", around("s"), true);
		expect(stage.tellMove).toHaveBeenLastCalledWith("c", 3, "F");
		expect(stage.tellMove).toHaveBeenCalledTimes(4);
	});

	it("takes nothing of another form, and no section into itself", async () => {
		await shown();
		drop("z", around("a"), false, "other");
		drop("s", around("c"));
		drop("a", around("a"), true);
		drop("a", around("b")); // where it is
		expect(stage.tellMove).not.toHaveBeenCalled();
	});

	it("has them moved and removed by keys, and says so", async () => {
		const { person } = await shown();
		expect(around("b").getAttribute("aria-label")).toBe(
			"Question 2 of 3 in the form. Alt with up and down moves it, Delete removes it.",
		);
		act(() => around("b").focus());
		await person.keyboard("{Alt>}{ArrowUp}{/Alt}");
		expect(stage.tellMove).toHaveBeenLastCalledWith("b", 0);
		act(() => around("c").focus());
		await person.keyboard("{Alt>}{ArrowUp}{ArrowDown}{/Alt}");
		expect(stage.tellMove).toHaveBeenLastCalledWith("c", 1);
		expect(stage.tellMove).toHaveBeenCalledTimes(2);
		await person.keyboard("{Delete}");
		expect(stage.tellRemove).toHaveBeenCalledWith("c");
		await person.type(screen.getByLabelText(/Field a/), "x{Delete}");
		expect(stage.tellRemove).toHaveBeenCalledTimes(1);
	});

	it("has room for more at its end and at that of a section", async () => {
		const { person } = await shown();
		const [inside, last] = screen.getAllByRole("button", { name: "Add a question" });
		await person.click(inside as HTMLElement);
		expect(stage.tellAdd).toHaveBeenLastCalledWith("s", 3);
		await person.click(last as HTMLElement);
		expect(stage.tellAdd).toHaveBeenLastCalledWith("F", 3);
	});
});
