import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { show } from "../testing";
import { BottomBar, grouped, SideMenu } from "./Menu";
import type { App } from "./place";

const item = (path: string, group?: string) => ({ path, name: path.toUpperCase(), group });
const app = (...menu: ReturnType<typeof item>[]) => ({ menu }) as unknown as App;

describe("the menu", () => {
	it("puts entries with the same words together, where the first of them stands", () => {
		const got = grouped([item("a"), item("b", "Yard"), item("c"), item("d", "Yard"), item("e", "Office")]);
		expect(got.map((u) => `${u.words}:${u.items.map((i) => i.path).join("")}`)).toEqual([
			":a",
			"Yard:bd",
			":c",
			"Office:e",
		]);
	});

	it("stands at the side with its words", () => {
		show(<SideMenu app={app(item("a"), item("b", "Yard"))} />, "/b");
		expect(screen.getByText("Yard")).toBeTruthy();
		expect(screen.getByRole("link", { name: "B" }).getAttribute("aria-current")).toBe("page");
	});

	it("has up to five entries in the bar of a phone, and the rest behind the last", async () => {
		const { person, unmount } = show(<BottomBar app={app(...["a", "b", "c", "d", "e"].map((p) => item(p)))} />);
		expect(screen.getAllByRole("link")).toHaveLength(5);
		expect(screen.queryByRole("button")).toBeNull();
		unmount();
		show(
			<BottomBar app={app(...["a", "b", "c", "d", "e", "f"].map((p) => item(p, p > "d" ? "Others" : undefined)))} />,
		);
		expect(screen.getAllByRole("link")).toHaveLength(4);
		await person.click(screen.getByRole("button", { name: "More" }));
		const menu = within(screen.getByRole("navigation"));
		expect(menu.getByText("Others")).toBeTruthy();
		await person.click(menu.getByRole("link", { name: "F" }));
		expect(menu.queryByText("Others")).toBeNull();
	});
});
