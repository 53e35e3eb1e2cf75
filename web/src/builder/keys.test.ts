import { describe, expect, it } from "vitest";
import { actionOf, type KeyActions } from "./keys";

function asked(e: Partial<KeyboardEvent>): string {
	let said = "";
	const actions: KeyActions = {
		undo: () => (said = "undo"),
		redo: () => (said = "redo"),
		keys: () => (said = "keys"),
		seenAs: () => (said = "seen as"),
		walk: (n) => (said = `walk ${n}`),
	};
	const key = {
		key: "",
		code: "",
		ctrlKey: false,
		metaKey: false,
		altKey: false,
		shiftKey: false,
		target: document.body,
	};
	actionOf({ ...key, ...e })?.(actions);
	return said;
}

describe("keys", () => {
	it("walk the trail, undo, redo and help", () => {
		expect(asked({ altKey: true, code: "Digit3", key: "3" })).toBe("walk 2");
		expect(asked({ altKey: true, code: "KeyP", key: "p" })).toBe("seen as");
		expect(asked({ ctrlKey: true, key: "z" })).toBe("undo");
		expect(asked({ ctrlKey: true, shiftKey: true, key: "Z" })).toBe("redo");
		expect(asked({ key: "?" })).toBe("keys");
		expect(asked({ key: "z" })).toBe("");
	});

	it("are the person's own while they type", () => {
		const input = document.createElement("input");
		expect(asked({ ctrlKey: true, key: "z", target: input })).toBe("");
		expect(asked({ key: "?", target: input })).toBe("");
		expect(asked({ altKey: true, code: "Digit1", key: "1", target: input })).toBe("walk 0");
	});
});
