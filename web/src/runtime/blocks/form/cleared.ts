import { useEffect, useState } from "react";
import { type Filled, type Slot, valueAt, withValue } from "./filled";

/** Takes away what was chosen and does not fit any more, and says so until something else is chosen. */
export function useCleared(
	slots: Slot[],
	current: boolean,
	filled: Filled,
	setFilled: (to: (before: Filled) => Filled) => void,
) {
	const [notes, setNotes] = useState<Record<string, string>>({});
	useEffect(() => {
		if (!current) return;
		for (const { path, part } of slots) {
			const said = part.cleared;
			if (!said || valueAt(filled, path) == null) continue;
			setFilled((before) => withValue(before, path, null));
			setNotes((before) => ({ ...before, [path]: said }));
		}
	}, [slots, current, filled, setFilled]);
	return { notes, forget: (path: string) => setNotes(({ [path]: _, ...others }) => others) };
}
