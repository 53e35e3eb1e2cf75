import { act, createEvent, fireEvent, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../testing";
import { Editable } from "./blocks/Editable";
import type { Page } from "./place";
import StageBlocks, { widthOf } from "./StageBlocks";
import * as stage from "./stage";

vi.mock("./stage", async (original) => ({
	...(await original<typeof stage>()),
	tellBlock: vi.fn(),
	tellMove: vi.fn(),
	tellAdd: vi.fn(),
	tellRemove: vi.fn(),
	tellSet: vi.fn(),
	tellText: vi.fn(),
}));

const page = {
	id: "pg",
	blocks: ["a", "b", "c"].map((id) => ({ id, kind: "heading", text: `Heading ${id}` })),
} as unknown as Page;

beforeEach(() => vi.clearAllMocks());

const blocks = () => {
	const shown = show(<StageBlocks page={page} where={{ path: "p", record: "" }} />);
	const all = screen.getAllByRole("group");
	return { ...shown, at: (i: number) => all[i] as HTMLElement };
};

describe("blocks on the stage", () => {
	it("are chosen by a click, and once", async () => {
		const { person, at } = blocks();
		await person.click(at(1));
		await person.click(at(1));
		expect(stage.tellBlock).toHaveBeenCalledTimes(1);
		expect(stage.tellBlock).toHaveBeenCalledWith("b");
		expect(at(1).className).toContain("stage-marked");
	});

	it("are chosen, moved and removed by keys", async () => {
		const { person, at } = blocks();
		act(() => at(1).focus());
		await person.keyboard("{Enter}");
		expect(stage.tellBlock).toHaveBeenCalledWith("b");
		await person.keyboard("{Alt>}{ArrowUp}{/Alt}");
		expect(stage.tellMove).toHaveBeenLastCalledWith("b", 0);
		await person.keyboard("{Alt>}{ArrowDown}{/Alt}");
		expect(stage.tellMove).toHaveBeenLastCalledWith("b", 2);
		await person.keyboard("{Delete}");
		expect(stage.tellRemove).toHaveBeenCalledWith("b");
	});

	it("are made narrower and wider by keys, and by dragging their edge", async () => {
		const { person, at } = blocks();
		act(() => at(1).focus());
		await person.keyboard("{Alt>}{ArrowLeft}{/Alt}");
		expect(stage.tellSet).toHaveBeenLastCalledWith("b", { width: "two thirds" });
		await person.keyboard("{Alt>}{ArrowRight}{/Alt}");
		expect(stage.tellSet).toHaveBeenCalledTimes(1); // it takes the whole row
		expect([0.1, 0.3, 0.4, 0.45, 0.7, 0.9].map(widthOf)).toEqual([
			"quarter",
			"third",
			"third",
			"half",
			"two thirds",
			"",
		]);
	});

	it("have their size and tone chosen where they stand", async () => {
		const { person, at } = blocks();
		await person.click(at(1));
		await person.selectOptions(screen.getByLabelText("Size"), "display");
		expect(stage.tellSet).toHaveBeenLastCalledWith("b", { size: "display" });
		await person.selectOptions(screen.getByLabelText("Tone"), "good");
		expect(stage.tellSet).toHaveBeenLastCalledWith("b", { tone: "good" });
	});

	it("do not move beyond the ends, nor without Alt", async () => {
		const { person, at } = blocks();
		act(() => at(0).focus());
		await person.keyboard("{Alt>}{ArrowUp}{/Alt}{ArrowDown}");
		act(() => at(2).focus());
		await person.keyboard("{Alt>}{ArrowDown}{/Alt}");
		expect(stage.tellMove).not.toHaveBeenCalled();
	});

	it("say how they are moved, to those who do not see them", () => {
		const { at } = blocks();
		expect(at(0).getAttribute("aria-label")).toBe(
			"heading, block 1 of 3. Alt with up and down moves it, with left and right makes it narrower or wider, Delete removes it.",
		);
	});

	it("have a place for another between them, and at the end", async () => {
		const { person } = blocks();
		const places = screen.getAllByRole("button", { name: "Add a block here" });
		expect(places).toHaveLength(3);
		await person.click(places[1] as HTMLElement);
		expect(stage.tellAdd).toHaveBeenLastCalledWith("pg", 1);
		await person.click(screen.getByRole("button", { name: "Add a block" }));
		expect(stage.tellAdd).toHaveBeenLastCalledWith("pg", 3);
	});

	/** Drops what was dragged upon something. */
	const drop = (on: HTMLElement, id: string) => {
		const e = createEvent.drop(on);
		Object.defineProperty(e, "dataTransfer", { value: { getData: () => id, types: [] } });
		fireEvent(on, e);
		return e;
	};
	const between = (i: number) =>
		(screen.getAllByRole("button", { name: /Add a block/ })[i] as HTMLElement).parentElement as HTMLElement;

	it("are dropped between others", () => {
		blocks();
		drop(between(3), "a");
		expect(stage.tellMove).toHaveBeenLastCalledWith("a", 2, undefined);
		drop(between(0), "c");
		expect(stage.tellMove).toHaveBeenLastCalledWith("c", 0, undefined);
	});

	it("stay where they are dropped upon themselves, and take nothing from elsewhere", () => {
		blocks();
		drop(between(1), "b");
		drop(between(2), "b");
		expect(drop(between(2), "a file").defaultPrevented).toBe(false);
		expect(stage.tellMove).not.toHaveBeenCalled();
	});

	const grouped = {
		id: "pg",
		blocks: [
			{ id: "a", kind: "heading", text: "A" },
			{ id: "g", kind: "group", look: "card", title: "", blocks: [{ id: "in", kind: "heading", text: "Within" }] },
		],
	} as unknown as Page;

	it("are dropped into groups and out of them, and chosen within", async () => {
		const { person } = show(<StageBlocks page={grouped} where={{ path: "p", record: "" }} />);
		// places: above A, above the group, above what it holds, its end, the end of the page
		drop(between(3), "a");
		expect(stage.tellMove).toHaveBeenLastCalledWith("a", 1, "g");
		drop(between(0), "in");
		expect(stage.tellMove).toHaveBeenLastCalledWith("in", 0, "pg");
		await person.click(screen.getByText("Within"));
		expect(stage.tellBlock).toHaveBeenCalledTimes(1);
		expect(stage.tellBlock).toHaveBeenCalledWith("in");
		await person.click(screen.getAllByRole("button", { name: "Add a block" })[0] as HTMLElement);
		expect(stage.tellAdd).toHaveBeenLastCalledWith("g", 1);
	});
});

describe("words on the stage", () => {
	it("are changed where they stand, with their placeholders, and put back by Escape", async () => {
		const made = { dangerouslySetInnerHTML: { __html: "<p>Hello Ines</p>" } };
		const { person } = show(
			<Editable tag="div" long block="b1" source="Hello {{ me.name }}" className="text-block" {...made} />,
		);
		const words = screen.getByTitle("Click to change these words");
		act(() => words.focus());
		expect(words.textContent).toBe("Hello {{ me.name }}");
		words.textContent = "Good day\n\nand welcome";
		await person.keyboard("{Enter}");
		expect(stage.tellText).not.toHaveBeenCalled();
		act(() => words.blur());
		expect(stage.tellText).toHaveBeenCalledWith("b1", expect.stringMatching(/^Good day\n\nand welcome/));
		expect(words.innerHTML).toBe("<p>Hello Ines</p>");
		act(() => words.focus());
		words.textContent = "Never mind";
		await person.keyboard("{Escape}");
		expect(stage.tellText).toHaveBeenCalledTimes(1);
	});
});
