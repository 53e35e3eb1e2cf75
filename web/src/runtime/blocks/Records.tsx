import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp, Search } from "lucide-react";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import { wordsOf } from "../../shared/api/client";
import { ChoiceText } from "../../shared/fields/choice";
import { Files } from "../../shared/fields/files";
import { type Column, type Row, valueText } from "../../shared/fields/values";
import { fileHref, getRows, type ListQuery, pictureHref, type Records as Shown } from "../place";
import type { BlockProps } from ".";

/** A list of records: sorted by a click on a column, searched, narrowed by choices, read on. */
export default function Records({ block: first, where }: BlockProps<"records">) {
	const block = first.id;
	const [query, setQuery] = useState<ListQuery>({});
	const search = useDeferredValue(query.search);
	const asked = { ...query, search };
	const untouched = Object.values(asked).every((v) => v === undefined || v === "" || v === false);
	const rows = useInfiniteQuery({
		queryKey: ["rows", block, where, asked, untouched ? first : null],
		queryFn: ({ pageParam }) => getRows(block, where, { ...asked, after: pageParam }),
		initialPageParam: "",
		getNextPageParam: (last) => last.next || undefined,
		placeholderData: keepPreviousData,
		...(untouched ? { initialData: { pages: [first], pageParams: [""] }, staleTime: Number.POSITIVE_INFINITY } : {}),
	});
	const pages = rows.data?.pages ?? [];
	const all = pages.flatMap((p) => p.rows);
	const shape = pages[0] ?? first;
	const tools = first.rows.length > 6 || first.next !== "" || !untouched;
	const sort = (c: Column) => setQuery({ ...query, sort: c.id, falling: shape.sort === c.id ? !shape.falling : false });
	return (
		<section className="card list-card">
			{tools && <Tools first={first} query={query} onChange={setQuery} />}
			{rows.isError && <p className="note note-bad m-3">{wordsOf(rows.error)}</p>}
			{all.length === 0 ? (
				<p className="empty">{untouched ? first.empty || "Nothing here yet." : "No records match."}</p>
			) : (
				<Table list={shape} rows={all} onSort={sort} />
			)}
			{rows.hasNextPage && (
				<p className="p-3">
					<button
						type="button"
						className="button"
						onClick={() => void rows.fetchNextPage()}
						disabled={rows.isFetchingNextPage}
					>
						Show more
					</button>
				</p>
			)}
		</section>
	);
}

function Tools({ first, query, onChange }: { first: Shown; query: ListQuery; onChange: (q: ListQuery) => void }) {
	const choices = first.columns.find((c) => c.type === "choice");
	return (
		<div className="flex flex-wrap gap-3 p-3 border-b border-line">
			<label className="flex items-center gap-2 flex-1 min-w-48">
				<Search size={16} aria-hidden />
				<span className="sr-only">Search this list</span>
				<input
					className="field-input"
					placeholder="Search"
					value={query.search ?? ""}
					onChange={(e) => onChange({ ...query, search: e.target.value })}
				/>
			</label>
			{choices && (
				<label className="flex items-center gap-2">
					<span className="text-soft">{choices.name}</span>
					<select
						className="field-input"
						value={query.value ?? ""}
						onChange={(e) => onChange({ ...query, field: e.target.value ? choices.id : "", value: e.target.value })}
					>
						<option value="">All</option>
						{choices.choices?.map((c) => (
							<option key={c.id} value={c.id}>
								{c.label}
							</option>
						))}
					</select>
				</label>
			)}
		</div>
	);
}

function Table({ list, rows, onSort }: { list: Shown; rows: Row[]; onSort: (c: Column) => void }) {
	const navigate = useNavigate();
	return (
		<table className="records">
			<thead>
				<tr>
					{list.columns.map((c) => (
						<th
							key={c.id}
							className={c.kind === "number" ? "text-right" : ""}
							aria-sort={list.sort === c.id ? (list.falling ? "descending" : "ascending") : undefined}
						>
							<button type="button" onClick={() => onSort(c)}>
								{c.name}
								{list.sort === c.id &&
									(list.falling ? <ArrowDown size={13} aria-hidden /> : <ArrowUp size={13} aria-hidden />)}
							</button>
						</th>
					))}
				</tr>
			</thead>
			<tbody>
				{rows.map((r) => (
					<RowView
						key={String(r.id)}
						list={list}
						row={r}
						onOpen={list.open ? () => navigate(`/${list.open}/${r.id}`) : undefined}
					/>
				))}
			</tbody>
		</table>
	);
}

function RowView({ list, row, onOpen }: { list: Shown; row: Row; onOpen?: () => void }) {
	return (
		<tr className={onOpen ? "opens" : ""} onClick={onOpen}>
			{list.columns.map((c, i) => {
				const text = valueText(row, c);
				const shown =
					c.kind === "file" ? (
						<Files row={row} column={c} href={fileHref(row, c)} height={36} plain={i === 0} />
					) : (
						<ChoiceText row={row} column={c} text={text} picture={pictureHref} />
					);
				return (
					<td key={c.id} data-name={c.name} className={c.kind === "number" ? "md:text-right tabular-nums" : ""}>
						{i === 0 && onOpen ? (
							<button type="button" className="row-link" onClick={onOpen}>
								{text || "Open"}
							</button>
						) : (
							shown
						)}
					</td>
				);
			})}
		</tr>
	);
}
