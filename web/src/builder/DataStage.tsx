import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { Plus, Search } from "lucide-react";
import { useDeferredValue, useState } from "react";
import { request, withQuery } from "../shared/api/client";
import { AddRecord } from "./AddRecord";
import { type AppOut, appUrl, type FieldOut, type Grid } from "./api";
import { RecordGrid } from "./RecordGrid";
import { Empty, ErrorNote, Loading } from "./ui";

/** The records of a table, as the one as whom the app is seen gets them. */
export function DataStage({ app, table, as }: { app: AppOut; table: string; as: string }) {
	const shown = app.tables?.find((t) => t.id === table) ?? app.tables?.[0];
	if (!shown)
		return (
			<Empty title="No tables yet">
				<p>
					A table keeps records of one kind: customers, boats, bookings. Add the first one on the left, then its fields;
					its records appear here.
				</p>
			</Empty>
		);
	return (
		<TableStage
			key={`${shown.id} ${as}`}
			app={app}
			table={shown.id}
			name={shown.name}
			fields={shown.fields ?? []}
			as={as}
		/>
	);
}

interface TableStageProps {
	app: AppOut;
	table: string;
	name: string;
	fields: FieldOut[];
	as: string;
}

function TableStage({ app, table, name, fields, as }: TableStageProps) {
	const [sort, setSort] = useState({ field: "", falling: false });
	const [words, setWords] = useState("");
	const search = useDeferredValue(words);
	const [adding, setAdding] = useState(false);
	const rest = `/tables/${table}/records`;
	const grid = useInfiniteQuery({
		queryKey: ["app", app.id, "grid", table, as, sort, search],
		queryFn: ({ pageParam }) =>
			request<Grid>(
				"GET",
				withQuery(appUrl(app.id, rest), { as, after: pageParam, sort: sort.field, falling: sort.falling, search }),
			),
		initialPageParam: "",
		getNextPageParam: (last) => last.next || undefined,
		placeholderData: keepPreviousData,
	});
	if (grid.isError) return <ErrorNote error={grid.error} retry={() => void grid.refetch()} />;
	if (!grid.data) return <Loading />;
	const first = grid.data.pages[0];
	const rows = grid.data.pages.flatMap((p) => p.rows ?? []);
	const columns = fields.filter((f) => first?.columns?.includes(f.id));
	return (
		<>
			<div className="flex items-center gap-3 px-4 h-12 border-b border-line shrink-0">
				<h2 className="font-display text-lg font-semibold whitespace-nowrap">{name}</h2>
				<span className="text-soft truncate" title={first?.sees}>
					{first?.total} {first?.total === 1 ? "record" : "records"}. {first?.sees}
				</span>
				<label className="ml-auto relative w-52 shrink-0">
					<Search size={14} className="absolute left-2.5 top-2.5 text-soft" aria-hidden />
					<span className="sr-only">Search {name}</span>
					<input
						className="input !pl-8"
						placeholder="Search"
						value={words}
						onChange={(e) => setWords(e.target.value)}
					/>
				</label>
				<button type="button" className="btn btn-main" onClick={() => setAdding(true)}>
					<Plus size={15} aria-hidden /> Add a record
				</button>
			</div>
			{rows.length === 0 ? (
				<Empty title={search ? "Nothing is found" : `No records of ${name}`}>
					<p>
						{search
							? "No record has these words."
							: as === "founder"
								? "Add the first one, or fill in a form on the stop Pages."
								: first?.sees}
					</p>
				</Empty>
			) : (
				<RecordGrid
					app={app.id}
					table={table}
					as={as}
					columns={columns}
					rows={rows}
					sort={sort}
					onSort={(field) => setSort({ field, falling: sort.field === field && !sort.falling })}
					onEnd={() => grid.hasNextPage && !grid.isFetchingNextPage && void grid.fetchNextPage()}
				/>
			)}
			{adding && (
				<AddRecord
					app={app.id}
					table={table}
					name={name}
					fields={columns.length ? columns : fields}
					as={as}
					onClose={() => setAdding(false)}
				/>
			)}
		</>
	);
}
