import { useEffect, useRef } from "react";

export interface KeyActions {
	undo: () => void;
	redo: () => void;
	keys: () => void;
	seenAs: () => void;
	walk: (stop: number) => void;
}

function typing(target: EventTarget | null): boolean {
	return (
		target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
	);
}

/** What a key press asks for, or null. While somebody types, keys are theirs. */
export function actionOf(
	e: Pick<KeyboardEvent, "key" | "code" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey" | "target">,
): ((a: KeyActions) => void) | null {
	if (e.altKey && !e.ctrlKey) {
		const digit = /^Digit([1-9])$/.exec(e.code)?.[1];
		if (digit) return (a) => a.walk(Number(digit) - 1);
		if (e.code === "KeyP") return (a) => a.seenAs();
	}
	if (typing(e.target)) return null;
	if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") return e.shiftKey ? (a) => a.redo() : (a) => a.undo();
	return e.key === "?" ? (a) => a.keys() : null;
}

/** Listens for the keys of the builder. */
export function useKeys(actions: KeyActions) {
	const now = useRef(actions);
	now.current = actions;
	useEffect(() => {
		const listen = (e: KeyboardEvent) => {
			const action = actionOf(e);
			if (action) {
				e.preventDefault();
				action(now.current);
			}
		};
		window.addEventListener("keydown", listen);
		return () => window.removeEventListener("keydown", listen);
	}, []);
}
