import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

vi.mock("./place", () => ({ onStage: true }));

const told = vi.fn();

beforeEach(() => {
	vi.resetModules();
	vi.spyOn(window, "parent", "get").mockReturnValue({ postMessage: told } as unknown as Window);
});
afterEach(() => {
	vi.restoreAllMocks();
	told.mockClear();
});

describe("where the running app says that it is", () => {
	it("is told when another page is shown, not when the same one is read again", async () => {
		const { tellWhere } = await import("./stage");
		tellWhere("welcome"); // what the builder itself asked for
		tellWhere("welcome");
		expect(told).not.toHaveBeenCalled();
		tellWhere("boats");
		tellWhere("boats");
		expect(told.mock.calls.map(([m]) => m)).toEqual([{ type: "pinegate:at", page: "boats" }]);
	});
});
