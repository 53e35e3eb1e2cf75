import { screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { show } from "../testing";
import type { Page } from "./place";
import StageBlocks from "./StageBlocks";
import * as stage from "./stage";

vi.mock("./place", async (original) => ({ ...(await original<typeof import("./place")>()), onStage: true }));
vi.mock("./stage", async (original) => ({ ...(await original<typeof stage>()), tellBlock: vi.fn() }));

const button = (id: string, text: string) => ({ id, kind: "button", text, to: { path: "p", record: "" }, reacts: [] });
const page = {
	id: "pg",
	blocks: [
		button("one", "First"),
		button("two", "Second"),
		{ id: "use", kind: "part", values: {}, here: [], blocks: [button("use~in", "Within")] },
	],
} as unknown as Page;

it("blocks in parts are found by a click, buttons stand side by side, and each block is chosen by itself", async () => {
	const { person } = show(<StageBlocks page={page} where={{ path: "p", record: "" }} />);
	await person.click(await screen.findByText("Within"));
	expect(stage.tellBlock).toHaveBeenLastCalledWith("in");
	expect(document.querySelector("style")?.textContent).toContain('[data-block="in"]');
	await person.click(screen.getByText("Second"));
	expect(stage.tellBlock).toHaveBeenLastCalledWith("two");
	await person.click(screen.getAllByRole("button", { name: "Add a block here" })[0] as HTMLElement);
	expect(stage.tellBlock).toHaveBeenCalledTimes(2);
	const row = screen.getByText("First").closest(".button-row");
	expect(row?.contains(screen.getByText("Second"))).toBe(true);
});
