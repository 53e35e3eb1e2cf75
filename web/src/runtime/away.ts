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
		const gone = (e: FocusEvent) => {
			// a press on words inside gives the focus to what is around
			if (!(e.target as Node).contains(box.current)) away(e);
		};
		const keys = (e: KeyboardEvent) => e.key === "Escape" && done.current(true);
		document.addEventListener("pointerdown", away);
		document.addEventListener("focusin", gone);
		document.addEventListener("keydown", keys);
		return () => {
			document.removeEventListener("pointerdown", away);
			document.removeEventListener("focusin", gone);
			document.removeEventListener("keydown", keys);
		};
	}, [open, box]);
}
