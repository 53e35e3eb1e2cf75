import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation, useNavigate } from "react-router";
import type { Row } from "../../../shared/fields/values";
import { useView } from "../../asks";
import { getRows, type Records, type Where } from "../../place";

/**
 * The rows of a list, or of a column of a board, with those that were read on. News read the first ones with the page,
 * and the others again behind them, so that nobody loses their place.
 */
export function useMore(first: { id: string; rows: Row[]; next: string }, where: Where, column?: string) {
	const view = useView(where.path);
	const [pages, setPages] = useState(0);
	const more = useQuery({
		queryKey: ["rows", first.id, where, view, column, first.next, pages],
		enabled: pages > 0 && first.next !== "",
		placeholderData: keepPreviousData,
		queryFn: async () => {
			const rows: Row[] = [];
			let next = first.next;
			for (let i = 0; i < pages && next; i++) {
				const got = await getRows(first.id, where, view, next, column);
				rows.push(...got.rows);
				next = got.next;
			}
			return { rows, next };
		},
	});
	const read = pages > 0 && first.next !== "" ? more.data : undefined;
	const had = new Set(first.rows.map((r) => r.id));
	return {
		rows: read ? [...first.rows, ...read.rows.filter((r) => !had.has(r.id))] : first.rows,
		next: read ? read.next : first.next,
		busy: more.isFetching,
		error: more.error,
		read: () => setPages(pages + 1),
	};
}

/** Where a row leads, and how it is opened: as a page, or beside this one, which the address then says. */
export function useOpen(list: Records) {
	const location = useLocation();
	const navigate = useNavigate();
	if (!list.open) return null;
	const to = (row: Row) => {
		const at = `${list.open}/${row.id}`;
		if (!list.openAs) return `/${at}`;
		const params = new URLSearchParams(location.search);
		params.set("open", at);
		params.set("in", list.openAs);
		return `${location.pathname}?${params}`;
	};
	return { to, open: (row: Row) => navigate(to(row), { preventScrollReset: true }) };
}

export type Open = ReturnType<typeof useOpen>;
