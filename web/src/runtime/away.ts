import { type RefObject, useEffect, useRef } from "react";

/** Calls back when somebody presses elsewhere, goes elsewhere by keys, or presses Escape, while something is open. */
export function useAway(open: boolean, box: RefObject<HTMLElement | null>, close: (byEscape: boolean) => void) {
	const done = useRef(close);
	done.current = close;
	useEffect(() => {
		if (!open) return;
		const away = (e: Event) => {
			if (!box.current?.contains(e.target as Node)) done.current(false);
		};
		const keys = (e: KeyboardEvent) => e.key === "Escape" && done.current(true);
		document.addEventListener("pointerdown", away);
		document.addEventListener("focusin", away);
		document.addEventListener("keydown", keys);
		return () => {
			document.removeEventListener("pointerdown", away);
			document.removeEventListener("focusin", away);
			document.removeEventListener("keydown", keys);
		};
	}, [open, box]);
}
