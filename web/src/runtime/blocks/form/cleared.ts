import { useEffect, useState } from "react";
import type { FormState } from "../../place";
import type { Question, Values } from "./state";

/** Takes away what was chosen and does not fit any more, and says so until something else is chosen. */
export function useCleared(
	state: FormState,
	current: boolean,
	questions: Question[],
	values: Values,
	setValues: (to: (before: Values) => Values) => void,
) {
	const [notes, setNotes] = useState<Record<string, string>>({});
	useEffect(() => {
		if (!current) return;
		for (const q of questions) {
			const said = state.parts[q.id]?.cleared;
			if (!said || values[q.column.id] == null) continue;
			setValues((before) => ({ ...before, [q.column.id]: null }));
			setNotes((before) => ({ ...before, [q.column.id]: said }));
		}
	}, [state, current, questions, values, setValues]);
	return { notes, forget: (field: string) => setNotes(({ [field]: _, ...others }) => others) };
}
