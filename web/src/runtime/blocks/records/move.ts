import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Problem, wordsOf } from "../../../shared/api/client";
import type { Row } from "../../../shared/fields/values";
import { changeRow, type Where } from "../../place";

/** What a record is moved to: values of fields. */
export type Moved = { [field: string]: unknown };

/**
 * Moves records: what is moved stands at its new place at once, until the record is read as it is now. Where the rules do
 * not allow it, or somebody was faster, it goes back, and it is told why.
 */
export function useMoves(block: string, where: Where) {
	const client = useQueryClient();
	const [moved, setMoved] = useState<{ [id: string]: { to: Moved; until: number } }>({});
	const [trouble, setTrouble] = useState("");
	const [said, setSaid] = useState("");
	const focus = useRef(""); // the record that keeps the focus at its new place
	useEffect(() => {
		const has = document.activeElement as HTMLElement | null;
		if (!focus.current || has?.dataset.record === focus.current) return;
		if (has && has !== document.body)
			focus.current = ""; // somebody went elsewhere
		else document.querySelector<HTMLElement>(`[data-record="${CSS.escape(focus.current)}"]`)?.focus();
	});
	const revisions = useRef<{ [id: string]: number }>({}); // of what was moved, as answered
	const move = useMutation({
		scope: { id: `moves of ${block}` }, // one after the other, so that a second move knows of the first
		mutationFn: async ({ row, to }: { row: Row; to: Moved; byKeys: boolean }) => {
			const id = String(row.id);
			const revision = Math.max(Number(row.revision), revisions.current[id] ?? 0);
			const done = await changeRow(block, where, { ...row, revision }, to);
			revisions.current[id] = done.revision;
			return done.revision;
		},
		onSuccess: (revision, { row, to }) => {
			const id = String(row.id);
			setMoved((old) => (old[id]?.to === to ? { ...old, [id]: { to, until: revision } } : old)); // unless it was moved on
		},
		onMutate: ({ row, to, byKeys }) => {
			if (byKeys) focus.current = String(row.id);
			setTrouble("");
			setMoved((old) => ({ ...old, [String(row.id)]: { to, until: Number.POSITIVE_INFINITY } }));
		},
		onError: (e, { row }) => {
			delete revisions.current[String(row.id)];
			const mistake = e instanceof Problem ? e.mistakes[0]?.message : undefined;
			setSaid("");
			setTrouble(`${row.label} went back. ${mistake ?? wordsOf(e)}`);
			setMoved(({ [String(row.id)]: _, ...others }) => others);
		},
		onSettled: () => client.invalidateQueries(),
	});
	/** The record as it is to be, where it was moved since it was read. */
	const now = (row: Row): Row => {
		const m = moved[String(row.id)];
		return m && Number(row.revision) < m.until ? { ...row, ...m.to } : row;
	};
	return {
		now,
		trouble,
		busy: move.isPending,
		/** What is said of the last move, to those who hear the page. */
		said,
		move(row: Row, to: Moved, place: string, byKeys = false) {
			setSaid(`${row.label} is moved to ${place}.`);
			move.mutate({ row, to, byKeys });
		},
	};
}
