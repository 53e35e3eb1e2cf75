import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Problem, wordsOf } from "../../../shared/api/client";
import type { Row } from "../../../shared/fields/values";
import { changeRow, type Where } from "../../place";

/** What a record is moved to: values of fields. */
export type Moved = { [field: string]: unknown };

/**
 * Moves records: what is moved stands at its new place at once. Where the rules do not allow it, or somebody was faster,
 * it goes back, and it is told why.
 */
export function useMoves(block: string, where: Where) {
	const client = useQueryClient();
	const [moved, setMoved] = useState<{ [id: string]: Moved }>({});
	const [trouble, setTrouble] = useState("");
	const move = useMutation({
		mutationFn: ({ row, to }: { row: Row; to: Moved }) => changeRow(block, where, row, to),
		onMutate: ({ row, to }) => {
			setTrouble("");
			setMoved((old) => ({ ...old, [String(row.id)]: to }));
		},
		onError: (e, { row }) => {
			const mistake = e instanceof Problem ? e.mistakes[0]?.message : undefined;
			setTrouble(`${row.label} went back. ${mistake ?? wordsOf(e)}`);
		},
		onSettled: async (_, __, { row }) => {
			await client.invalidateQueries();
			setMoved(({ [String(row.id)]: _, ...others }) => others);
		},
	});
	return { moved, trouble, move: (row: Row, to: Moved) => move.mutate({ row, to }) };
}
