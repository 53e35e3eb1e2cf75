import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { Problem, request, withQuery, wordsOf } from "../../shared/api/client";
import { type Row, sentValue, type Value } from "../../shared/fields/values";
import { say } from "../../shared/words";
import { appUrl, type BulkOut, type FieldOut, useRefresh, type Written } from "../api";

/** The words of a refused write, with what is wrong at the field. */
export function refusal(e: unknown): string {
	const at = e instanceof Problem ? e.mistakes[0]?.message : undefined;
	return at ? `${at} Nothing was changed.` : wordsOf(e);
}

/** Two people changed the same cell: what one entered, and the record as it is now. */
export interface Conflict {
	column: FieldOut;
	mine: Value;
	was: Row;
	now: Row;
}

/** What is done to cells, for the list of changes. */
export type Deed = "paste" | "fill" | "clear" | "delete";

export interface GridWrites {
	/** Changes a field of a row as it is now; the value was edited from what stood in another state of it, if that is given. */
	change: (row: Row, column: FieldOut, value: Value, from?: Row) => void;
	texts: (edits: { row: Row; texts: Record<string, string> }[], what: Deed) => void;
	remove: (rows: Row[]) => void;
}

/** Writes to the records of a table, and what is to be told of them. */
export function useWrites(app: string, table: string, as: string) {
	const refresh = useRefresh(app);
	const [wrong, setWrong] = useState(new Map<string, string>());
	const [conflict, setConflict] = useState<Conflict | null>(null);
	const url = (row: Row) => appUrl(app, `/tables/${table}/records/${row.id}`);
	const bulk = appUrl(app, `/tables/${table}/bulk`);
	const change = useMutation({
		mutationFn: ({ row, column, value, from }: { row: Row; column: FieldOut; value: Value; from: Row }) =>
			request<Written>("PATCH", withQuery(url(row), { as }), {
				revision: row.revision,
				values: { [column.id]: sentValue(from, column, value) },
			}),
		onError: async (e, { row, column, value, from }) => {
			if (!(e instanceof Problem) || e.status !== 409) {
				toast.error(refusal(e), { duration: 10_000 });
				return;
			}
			try {
				const now = (await request<Written>("GET", withQuery(url(row), { as }))).row as Row;
				setConflict({ column, mine: value, was: from, now });
			} catch (again) {
				toast.error(wordsOf(again));
			}
		},
		onSettled: refresh,
	});
	const many = useMutation({
		mutationFn: ({ edits, what }: { rows: Row[]; edits: unknown[]; what: Deed }) =>
			request<BulkOut>("POST", withQuery(bulk, { as }), { edits, what }),
		onSuccess: (got, { rows, what }) => {
			const cells = new Map<string, string>();
			for (const m of got.wrong) cells.set(`${rows[m.row]?.id} ${m.field ?? ""}`, m.message);
			setWrong(cells);
			if (got.wrong.length > 0) {
				const n = got.wrong.length;
				toast.error(
					say(
						"Nothing was changed: {n} cell doesn’t fit. {why}||Nothing was changed: {n} cells don’t fit and are marked. {why}",
						{
							n,
							why: got.wrong[0]?.message ?? "",
						},
					),
					{ duration: 12_000 },
				);
			} else if (what === "delete")
				toast.success(
					say("Deleted {n} record. Undo restores it.||Deleted {n} records. Undo restores them.", { n: got.done }),
				);
		},
		onError: (e) => toast.error(refusal(e), { duration: 10_000 }),
		onSettled: refresh,
	});
	const writes: GridWrites = {
		change: (row, column, value, from = row) => {
			setWrong(new Map());
			change.mutate({ row, column, value, from });
		},
		texts: (edits, what) => {
			if (edits.length === 0) return;
			many.mutate({
				rows: edits.map((e) => e.row),
				edits: edits.map((e) => ({ record: e.row.id, revision: e.row.revision, texts: e.texts })),
				what,
			});
		},
		remove: (rows) =>
			many.mutate({
				rows,
				edits: rows.map((r) => ({ record: r.id, revision: r.revision, delete: true })),
				what: "delete",
			}),
	};
	return { writes, wrong, conflict, endConflict: () => setConflict(null) };
}
