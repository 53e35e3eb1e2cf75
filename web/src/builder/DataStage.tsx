import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import {
	ArrowDownUp,
	Columns3,
	Download,
	FileWarning,
	Filter as FilterIcon,
	LayoutList,
	Plus,
	Search,
	Sigma,
	Trash2,
	Upload,
	Waypoints,
} from "lucide-react";
import { Popover } from "radix-ui";
import { type ReactNode, useDeferredValue, useId, useState } from "react";
import { request, withQuery } from "../shared/api/client";
import type { Row } from "../shared/fields/values";
import { say } from "../shared/words";
import { AddRecord } from "./AddRecord";
import { type AppOut, appUrl, type FieldOut, type Grid, type TotalsOut } from "./api";
import { BringFiles } from "./bring/BringFiles";
import { Leftovers, useLeftovers } from "./bring/Leftovers";
import { ExpressionField } from "./expression/ExpressionField";
import { BinPanel } from "./grid/BinPanel";
import { ConflictDialog } from "./grid/ConflictDialog";
import { LayoutPicker } from "./grid/LayoutPicker";
import { OrderPicker } from "./grid/OrderPicker";
import { RecordGrid } from "./grid/RecordGrid";
import { RecordPanel } from "./grid/RecordPanel";
import { Totals } from "./grid/Totals";
import { ViewPicker } from "./grid/ViewPicker";
import { arrange, askedSort, fitting, sortsOf, sortText, useView } from "./grid/view";
import { useWrites } from "./grid/writes";
import { TableMap } from "./map/TableMap";
import { Confirm, Empty, ErrorNote, Loading } from "./ui";

interface StageProps {
	app: AppOut;
	table: string;
	as: string;
	onTable: (id: string) => void;
}

/** The records of a table, as the one as whom the app is seen gets them. */
export function DataStage({ app, table, as, onTable }: StageProps) {
	const shown = app.tables?.find((t) => t.id === table) ?? app.tables?.[0];
	const [bringing, setBringing] = useState(false);
	const [mending, setMending] = useState(false);
	// the map makes room as soon as a table is opened
	const [mapped, setMapped] = useState<string | null>(null);
	return (
		<>
			{mapped === table ? (
				<TableMap
					app={app}
					onClose={() => setMapped(null)}
					onOpen={(id) => {
						setMapped(null);
						onTable(id);
					}}
				/>
			) : shown ? (
				<TableStage
					key={`${shown.id} ${as}`}
					app={app}
					table={shown.id}
					name={shown.name}
					word={shown.word}
					fields={shown.fields ?? []}
					as={as}
					onBring={() => setBringing(true)}
					onMap={() => setMapped(table)}
					onLeftovers={() => setMending(true)}
				/>
			) : (
				<Empty title="No tables yet">
					<p>
						A table keeps records of one kind: customers, boats, bookings. Add the first one on the left, then its
						fields; its records appear here. Or import files: Pine Gate finds their tables, fields and links.
					</p>
					<button type="button" className="btn btn-main" onClick={() => setBringing(true)}>
						<Upload size={15} aria-hidden /> Import files
					</button>
				</Empty>
			)}
			{mending && <Leftovers app={app.id} onClose={() => setMending(false)} />}
			{bringing && <BringFiles app={app} onClose={() => setBringing(false)} />}
		</>
	);
}

interface TableStageProps {
	app: AppOut;
	table: string;
	name: string;
	/** What one of its records is called, with its article. */
	word: string;
	fields: FieldOut[];
	as: string;
	onBring: () => void;
	onMap: () => void;
	onLeftovers: () => void;
}

function TableStage({ app, table, name, word, fields, as, onBring, onMap, onLeftovers }: TableStageProps) {
	const still = app.member === "viewer"; // looks, and changes nothing
	const aside = useLeftovers(app.id).reduce((n, l) => n + l.rows, 0);
	const state = useView(app.id, table);
	const layout = fitting(state.settings, fields);
	const setLayout = state.change;
	const { filter, group } = layout;
	const setFilter = (filter: string) => setLayout({ ...layout, filter });
	const [words, setWords] = useState("");
	const search = useDeferredValue(words);
	const [panel, setPanel] = useState<"add" | "bin" | "totals" | null>(null);
	const [open, setOpen] = useState<string | null>(null);
	const [selected, setSelected] = useState(new Set<string>());
	const [removing, setRemoving] = useState(false);
	const { writes, wrong, conflict, endConflict } = useWrites(app.id, table, as);
	const sorts = sortsOf(layout.sort);
	const asked = { as, sort: askedSort(layout), search, filter };
	const grid = useInfiniteQuery({
		queryKey: ["app", app.id, "grid", table, asked],
		queryFn: ({ pageParam }) =>
			request<Grid>("GET", withQuery(appUrl(app.id, `/tables/${table}/records`), { ...asked, after: pageParam })),
		initialPageParam: "",
		getNextPageParam: (last) => last.next || undefined,
		placeholderData: keepPreviousData,
		enabled: state.ready,
	});
	const groups = useQuery({
		queryKey: ["app", app.id, "totals", table, asked, group],
		queryFn: () =>
			request<TotalsOut>("GET", withQuery(appUrl(app.id, `/tables/${table}/totals`), { ...asked, sort: "", group })),
		enabled: state.ready && group !== "",
	});
	const totals = useQuery({
		queryKey: ["app", app.id, "totals", table, asked],
		queryFn: () =>
			request<TotalsOut>("GET", withQuery(appUrl(app.id, `/tables/${table}/totals`), { ...asked, sort: "" })),
		enabled: state.ready && fields.some((f) => f.kind === "number"),
	});
	if (grid.isError)
		return (
			<ErrorNote
				error={grid.error}
				retry={() => {
					setFilter("");
					void grid.refetch();
				}}
			/>
		);
	if (!grid.data) return <Loading />;
	const first = grid.data.pages[0];
	const rows = grid.data.pages.flatMap((p) => p.rows ?? []) as Row[];
	const seen = fields.filter((f) => first?.columns?.includes(f.id)).map((f) => (still ? { ...f, entered: false } : f));
	const columns = arrange(seen, layout);
	const sort = (field: string, more: boolean) => {
		const had = sorts.find((s) => s.field === field);
		const next = { field, falling: had ? !had.falling : false };
		const all = had ? sorts.map((s) => (s.field === field ? next : s)) : [...sorts, next];
		setLayout({ ...layout, sort: sortText(more ? all : [next]) });
	};
	const chosen = rows.filter((r) => selected.has(String(r.id)));
	return (
		<>
			<div className="flex items-center gap-3 px-4 h-12 border-b border-line shrink-0">
				<h2 className="font-display text-lg font-semibold whitespace-nowrap">{name}</h2>
				<span className="text-soft truncate" title={first?.sees}>
					{say("{n} record. {sees}||{n} records. {sees}", { n: first?.total ?? 0, sees: first?.sees ?? "" })}
				</span>
				{as === "founder" && !still && aside > 0 && (
					<button type="button" className="btn ml-auto shrink-0 text-resin" onClick={onLeftovers}>
						<FileWarning size={15} aria-hidden /> {say("{n} row to fix||{n} rows to fix", { n: aside })}
					</button>
				)}
				<button
					type="button"
					className={`btn shrink-0 ${as === "founder" && !still && aside > 0 ? "" : "ml-auto"}`}
					onClick={onMap}
				>
					<Waypoints size={15} aria-hidden /> Map
				</button>
				{as === "founder" && !still && (
					<button type="button" className="btn shrink-0" onClick={onBring}>
						<Upload size={15} aria-hidden /> Import files
					</button>
				)}
				{!still && (
					<button type="button" className="btn btn-main shrink-0" onClick={() => setPanel("add")}>
						<Plus size={15} aria-hidden /> Add {word}
					</button>
				)}
			</div>
			<div className="flex items-center gap-2 px-4 h-11 border-b border-line shrink-0 overflow-x-auto">
				<Pop
					icon={<LayoutList size={15} aria-hidden />}
					label={`${state.view?.name ?? "Views"}${state.changed ? " (changed)" : ""}`}
					on={state.view !== undefined}
				>
					<ViewPicker app={app.id} table={table} name={name} state={state} />
				</Pop>
				<label className="relative w-40 shrink-0">
					<Search size={14} className="absolute left-2.5 top-2.5 text-soft" aria-hidden />
					<span className="sr-only">Search {name}</span>
					<input
						className="input !pl-8"
						placeholder="Search"
						value={words}
						onChange={(e) => setWords(e.target.value)}
					/>
				</label>
				<Pop icon={<FilterIcon size={15} aria-hidden />} label={filter ? "Filtered" : "Filter"} on={filter !== ""}>
					<FilterForm app={app.id} table={table} as={as} value={filter} onChange={setFilter} />
				</Pop>
				<Pop icon={<ArrowDownUp size={15} aria-hidden />} label="Order" on={sorts.length > 0 || group !== ""}>
					<OrderPicker fields={seen} settings={layout} onChange={setLayout} />
				</Pop>
				<Pop icon={<Columns3 size={15} aria-hidden />} label="Columns" on={layout.hidden.length > 0}>
					<LayoutPicker fields={seen} layout={layout} onChange={setLayout} />
				</Pop>
				<button type="button" className="btn" onClick={() => setPanel("totals")}>
					<Sigma size={15} aria-hidden /> Totals
				</button>
				<Pop icon={<Download size={15} aria-hidden />} label="Export" on={false}>
					<Exports app={app.id} table={table} asked={asked} />
				</Pop>
				{chosen.length > 0 && !still && (
					<button type="button" className="btn text-berry" onClick={() => setRemoving(true)}>
						<Trash2 size={15} aria-hidden /> {say("Delete {n} record||Delete {n} records", { n: chosen.length })}
					</button>
				)}
				{as === "founder" && !still && (
					<button type="button" className="btn ml-auto" onClick={() => setPanel("bin")}>
						<Trash2 size={15} aria-hidden /> Bin
					</button>
				)}
			</div>
			{rows.length === 0 ? (
				<Empty title={search || filter ? "No matches" : `No records in ${name}`}>
					<p>
						{search
							? `No records match “${search}”.`
							: filter
								? "No records match the filter."
								: as === "founder"
									? "Add the first one, import a file, or fill in a form in Pages."
									: first?.sees}
					</p>
					{filter && (
						<button type="button" className="btn" onClick={() => setFilter("")}>
							Clear filter
						</button>
					)}
				</Empty>
			) : (
				<RecordGrid
					app={app.id}
					as={as}
					columns={columns}
					frozen={layout.frozen}
					widths={layout.widths}
					onWidth={(field, width) => setLayout({ ...layout, widths: { ...layout.widths, [field]: width } })}
					rows={rows}
					sorts={sorts}
					group={seen.find((f) => f.id === group)}
					groups={groups.data?.groups as Row[] | undefined}
					totals={totals.data?.groups[0] as Row | undefined}
					onSort={sort}
					onEnd={() => grid.hasNextPage && !grid.isFetchingNextPage && void grid.fetchNextPage()}
					onOpen={(row) => setOpen(String(row.id))}
					selected={selected}
					onSelect={setSelected}
					writes={writes}
					wrong={wrong}
				/>
			)}
			{panel === "add" && (
				<AddRecord
					app={app.id}
					table={table}
					word={word}
					fields={seen.length ? seen : fields}
					as={as}
					onClose={() => setPanel(null)}
				/>
			)}
			{panel === "bin" && <BinPanel app={app.id} table={table} name={name} onClose={() => setPanel(null)} />}
			{panel === "totals" && (
				<Totals app={app.id} table={table} name={name} columns={seen} asked={asked} onClose={() => setPanel(null)} />
			)}
			{open && (
				<RecordPanel
					key={open}
					app={app}
					table={table}
					record={open}
					fields={seen}
					as={as}
					writes={writes}
					onClose={() => setOpen(null)}
				/>
			)}
			{conflict && <ConflictDialog conflict={conflict} writes={writes} onClose={endConflict} />}
			{removing && (
				<Confirm
					text={say("{label} goes to the bin. Undo restores it.||{n} records go to the bin. Undo restores them.", {
						n: chosen.length,
						label: String(chosen[0]?.label || "This record"),
					})}
					label="Delete"
					onNo={() => setRemoving(false)}
					onYes={() => {
						writes.remove(chosen);
						setSelected(new Set());
						setRemoving(false);
					}}
				/>
			)}
		</>
	);
}

function Pop({ icon, label, on, children }: { icon: ReactNode; label: string; on: boolean; children: ReactNode }) {
	return (
		<Popover.Root>
			<Popover.Trigger asChild>
				<button type="button" className={`btn ${on ? "!border-(--pine) text-(--pine)" : ""}`}>
					{icon} {label}
				</button>
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content className="pop" align="start" sideOffset={6} collisionPadding={12}>
					{children}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

interface FilterProps {
	app: string;
	table: string;
	as: string;
	value: string;
	onChange: (v: string) => void;
}

function FilterForm({ app, table, as, value, onChange }: FilterProps) {
	const [text, setText] = useState(value);
	const id = useId();
	return (
		<form
			className="grid gap-3"
			onSubmit={(e) => {
				e.preventDefault();
				onChange(text);
			}}
		>
			<p className="font-display font-semibold text-base">Show records where</p>
			<ExpressionField
				id={id}
				app={app}
				label="Condition"
				scope={{ row: table, want: "condition" }}
				as={as}
				value={text}
				onChange={setText}
			/>
			<div className="flex justify-end gap-2">
				<button
					type="button"
					className="btn"
					onClick={() => {
						setText("");
						onChange("");
					}}
				>
					Show all
				</button>
				<button type="submit" className="btn btn-main">
					Filter
				</button>
			</div>
		</form>
	);
}

interface ExportsProps {
	app: string;
	table: string;
	asked: { as: string; sort: string; search: string; filter: string };
}

/** Files of the records: those that are asked for now, the whole table, or the whole app. */
function Exports({ app, table, asked }: ExportsProps) {
	const narrowed = asked.search !== "" || asked.filter !== "";
	const to = (params: Record<string, string>) => withQuery(appUrl(app, "/export"), { as: asked.as, ...params });
	const row = (name: string, params: Record<string, string>, formats: string[]) => (
		<p className="flex items-center gap-3">
			<span className="flex-1">{name}</span>
			{formats.map((format) => (
				<a key={format} className="link uppercase" href={to({ ...params, format })} download>
					{format}
				</a>
			))}
		</p>
	);
	const all = ["csv", "xlsx", "json"];
	return (
		<div className="grid gap-2">
			<p className="font-display font-semibold text-base">Export</p>
			{narrowed &&
				row("The records shown now", { table, sort: asked.sort, search: asked.search, filter: asked.filter }, all)}
			{row("All records of this table", { table }, all)}
			{row("All tables of the app", {}, ["xlsx", "json"])}
			<p className="text-soft">Links are written by name, so you can import the file again with its links.</p>
		</div>
	);
}
