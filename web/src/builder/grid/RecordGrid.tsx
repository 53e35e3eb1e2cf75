import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp, PanelRightOpen } from "lucide-react";
import { type ClipboardEvent, type KeyboardEvent, type MouseEvent, useEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { toast } from "sonner";
import { ChoiceText } from "../../shared/fields/choice";
import { Files } from "../../shared/fields/files";
import { fieldValue, numberText, type Row, type Value, valueText } from "../../shared/fields/values";
import { say } from "../../shared/words";
import { hrefOf } from "../AddRecord";
import { appUrl, type FieldOut } from "../api";
import { CellEditor } from "./CellEditor";
import { type Cell, copied, fillRange, inRange, pasted, rangeOf } from "./clipboard";
import { GroupRow, inLines } from "./groups";
import type { SortBy } from "./view";
import type { Deed, GridWrites } from "./writes";

interface GridProps {
	app: string;
	as: string;
	columns: FieldOut[];
	/** How many of the first columns stay in place. */
	frozen: number;
	widths: Record<string, number>;
	onWidth: (field: string, width: number) => void;
	rows: Row[];
	sorts: SortBy[];
	/** The field by which the rows are grouped, and the totals of the groups. */
	group?: FieldOut;
	groups?: Row[];
	totals?: Row;
	onSort: (field: string, more: boolean) => void;
	onEnd: () => void;
	onOpen: (row: Row) => void;
	selected: Set<string>;
	onSelect: (ids: Set<string>) => void;
	writes: GridWrites;
	/** Cells that a paste could not fill, by record and field, with what is wrong. */
	wrong: Map<string, string>;
}

const rowHeight = 35;
const markWidth = 62;

export function widthOf(f: FieldOut): number {
	switch (f.type) {
		case "yes/no":
		case "number":
		case "percentage":
		case "duration":
			return 110;
		case "long text":
		case "rich text":
		case "links":
			return 260;
		case "date":
		case "money":
			return 130;
		case "e-mail":
		case "web address":
			return 220;
	}
	return 170;
}

/** The records in rows, worked in as in a spreadsheet. */
export function RecordGrid(p: GridProps) {
	const scroller = useRef<HTMLDivElement>(null);
	const [active, setActive] = useState<Cell>({ row: 0, column: 0 });
	const [anchor, setAnchor] = useState<Cell>({ row: 0, column: 0 });
	const [editing, setEditing] = useState<{ start?: string } | null>(null);
	const range = rangeOf(active, anchor);
	const lines = useMemo(() => inLines(p.rows, p.group), [p.rows, p.group]);
	const virtual = useVirtualizer({
		count: lines.length,
		getScrollElement: () => scroller.current,
		estimateSize: () => rowHeight,
		overscan: 12,
	});
	const items = virtual.getVirtualItems();
	const last = lines[items.at(-1)?.index ?? 0]?.row ?? 0;
	const { onEnd } = p;
	useEffect(() => {
		if (last >= p.rows.length - 40) onEnd();
	}, [last, p.rows.length, onEnd]);
	const go = (row: number, column: number, extend = false) => {
		const next = {
			row: Math.max(0, Math.min(p.rows.length - 1, row)),
			column: Math.max(0, Math.min(p.columns.length - 1, column)),
		};
		setActive(next);
		if (!extend) setAnchor(next);
		virtual.scrollToIndex(lines.findIndex((l) => !l.head && l.row === next.row));
		scroller.current?.focus();
	};
	const edit = (start?: string) => {
		const column = p.columns[active.column];
		if (column?.entered) setEditing({ start });
		else toast.info(`${column?.name} is set by the app.`);
	};
	const save = (value: Value, row: Row, then?: "down" | "right") => {
		const column = p.columns[active.column];
		setEditing(null);
		scroller.current?.focus();
		if (column && JSON.stringify(value) !== JSON.stringify(fieldValue(row, column)))
			p.writes.change(row, column, value);
		if (then) go(active.row + (then === "down" ? 1 : 0), active.column + (then === "right" ? 1 : 0));
	};
	const write = (cells: string[][], what: Deed) => {
		const { edits, left } = fillRange(cells, p.columns, range, p.rows.length);
		if (left > 0) {
			toast.error(
				say(
					"Nothing was pasted: {n} row too many. Add a record first.||Nothing was pasted: {n} rows too many. Add records first.",
					{ n: left },
				),
			);
			return;
		}
		p.writes.texts(
			edits.map((e) => ({ row: p.rows[e.row] as Row, texts: e.texts })),
			what,
		);
	};
	const copy = (e: ClipboardEvent) => {
		if (editing) return;
		e.preventDefault();
		e.clipboardData.setData("text/plain", copied(p.rows, p.columns, range));
	};
	const paste = (e: ClipboardEvent) => {
		if (editing) return;
		e.preventDefault();
		write(pasted(e.clipboardData.getData("text/plain")), "paste");
	};
	const fillDown = () => {
		const top = copied(p.rows, p.columns, { ...range, bottom: range.top });
		const first = pasted(top)[0] ?? [];
		write(
			Array.from({ length: range.bottom - range.top + 1 }, () => first),
			"fill",
		);
	};
	const keys = (e: KeyboardEvent) => {
		if (editing) return;
		const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / rowHeight) - 2);
		const step: Record<string, [number, number]> = {
			ArrowUp: [-1, 0],
			ArrowDown: [1, 0],
			ArrowLeft: [0, -1],
			ArrowRight: [0, 1],
			PageUp: [-page, 0],
			PageDown: [page, 0],
			Home: [e.ctrlKey ? -p.rows.length : 0, -p.columns.length],
			End: [e.ctrlKey ? p.rows.length : 0, p.columns.length],
		};
		const by = step[e.key] ?? (e.key === "Tab" ? [0, e.shiftKey ? -1 : 1] : undefined);
		const leaves = e.key === "Tab" && (e.shiftKey ? active.column === 0 : active.column === p.columns.length - 1);
		if (by && !leaves) go(active.row + (by[0] ?? 0), active.column + (by[1] ?? 0), e.shiftKey && e.key !== "Tab");
		else if (e.key === "Enter" || e.key === "F2") edit();
		else if (e.key === "Escape") setAnchor(active);
		else if (e.key === " ") {
			const row = p.rows[active.row];
			if (row) toggle(row);
		} else if (e.key === "Delete" || e.key === "Backspace") write([[""]], "clear");
		else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "d") fillDown();
		else if (e.key.length === 1 && e.key !== "?" && !e.ctrlKey && !e.metaKey && !e.altKey) {
			// the editor is there and has the focus before the browser enters the character
			flushSync(() => edit(""));
			return;
		} else return;
		e.preventDefault();
	};
	const toggle = (row: Row) => {
		const next = new Set(p.selected);
		const id = String(row.id);
		if (!next.delete(id)) next.add(id);
		p.onSelect(next);
	};
	const widths = p.columns.map((c) => p.widths[c.id] ?? widthOf(c));
	const template = `${markWidth}px ${widths.map((w) => `${w}px`).join(" ")}`;
	const width = widths.reduce((n, w) => n + w, markWidth);
	const leftOf = (i: number) => widths.slice(0, i).reduce((n, w) => n + w, markWidth);
	const stuck = (i: number, z: number) =>
		i < p.frozen ? { position: "sticky" as const, left: leftOf(i), zIndex: z } : undefined;
	return (
		<div
			ref={scroller}
			className="flex-1 min-h-0 overflow-auto bg-surface outline-offset-[-2px]"
			role="grid"
			aria-rowcount={p.rows.length + 1}
			aria-colcount={p.columns.length}
			aria-multiselectable="true"
			tabIndex={0}
			onKeyDown={keys}
			onCopy={copy}
			onPaste={paste}
		>
			<div
				role="row"
				className="grid sticky top-0 z-10 bg-raised border-b border-line"
				style={{ gridTemplateColumns: template, width }}
			>
				<div
					role="columnheader"
					className="sticky left-0 z-10 bg-raised border-r border-line grid place-content-center"
				>
					<input
						type="checkbox"
						tabIndex={-1}
						className="accent-(--pine)"
						aria-label="Select all loaded records"
						checked={p.rows.length > 0 && p.selected.size >= p.rows.length}
						onChange={(e) => p.onSelect(new Set(e.target.checked ? p.rows.map((r) => String(r.id)) : []))}
					/>
				</div>
				{p.columns.map((c, i) => (
					<Header
						key={c.id}
						column={c}
						sort={p.sorts.find((s) => s.field === c.id)}
						style={stuck(i, 5)}
						width={widths[i] ?? 170}
						onSort={(more) => p.onSort(c.id, more)}
						onWidth={(w) => p.onWidth(c.id, w)}
					/>
				))}
			</div>
			<div className="relative" style={{ height: virtual.getTotalSize(), width }}>
				{items.map((item) => {
					const line = lines[item.index];
					const row = line && p.rows[line.row];
					if (!row) return null;
					const style = { gridTemplateColumns: template, height: rowHeight, transform: `translateY(${item.start}px)` };
					if (line.head && p.group)
						return (
							<GroupRow
								key={`group ${row.id}`}
								row={row}
								group={p.group}
								totals={p.groups}
								columns={p.columns}
								style={style}
							/>
						);
					const at = line.row;
					const chosen = p.selected.has(String(row.id));
					return (
						<div
							key={String(row.id)}
							role="row"
							aria-rowindex={at + 2}
							aria-selected={chosen}
							className="grid absolute inset-x-0 border-b border-line group"
							style={style}
						>
							<div
								role="gridcell"
								className="sticky left-0 z-[4] bg-surface border-r border-line flex items-center justify-around"
							>
								<input
									type="checkbox"
									tabIndex={-1}
									className="accent-(--pine)"
									aria-label={`Select ${row.label ?? "this record"}`}
									checked={chosen}
									onChange={() => toggle(row)}
								/>
								<button
									type="button"
									tabIndex={-1}
									className="text-soft hover:text-(--pine) p-1"
									aria-label={`Open ${row.label ?? "this record"}`}
									title="Open the record"
									onClick={() => p.onOpen(row)}
								>
									<PanelRightOpen size={15} />
								</button>
							</div>
							{p.columns.map((c, i) => {
								const on = active.row === at && active.column === i;
								const mistake = p.wrong.get(`${row.id} ${c.id}`);
								const text = valueText(row, c);
								const click = (e: MouseEvent) => {
									if (on && editing) return;
									setEditing(null);
									go(at, i, e.shiftKey);
								};
								return (
									// biome-ignore lint/a11y/useKeyWithClickEvents: the grid itself has the keys
									<div
										key={c.id}
										role="gridcell"
										tabIndex={-1}
										data-field={c.id}
										data-active={on || undefined}
										data-wrong={mistake ? true : undefined}
										title={mistake ?? (text.length > 20 ? text : undefined)}
										className={`grid-cell ${c.kind === "number" ? "text-right tabular-nums" : ""} ${c.entered ? "" : "text-soft"} ${inRange(range, at, i) ? "grid-range" : i < p.frozen ? "bg-surface" : ""} ${on && editing ? "!overflow-visible !p-0" : ""}`}
										style={stuck(i, on && editing ? 6 : 3)}
										onClick={click}
										onDoubleClick={() => edit()}
									>
										{on && editing ? (
											<CellEditor
												app={p.app}
												as={p.as}
												column={c}
												row={row}
												start={editing.start}
												onSave={save}
												onLeave={() => {
													setEditing(null);
													scroller.current?.focus();
												}}
											/>
										) : (
											<CellText app={p.app} as={p.as} row={row} column={c} text={text} />
										)}
									</div>
								);
							})}
						</div>
					);
				})}
			</div>
			{p.totals && (
				<div
					role="row"
					className="grid sticky bottom-0 z-10 bg-raised border-t border-line font-medium"
					style={{ gridTemplateColumns: template, width }}
				>
					<div
						role="gridcell"
						className="sticky left-0 bg-raised border-r border-line text-soft text-xs grid place-content-center"
					>
						Sum
					</div>
					{p.columns.map((c, i) => {
						const v = p.totals?.[c.id];
						return (
							<div key={c.id} role="gridcell" className="grid-cell text-right bg-raised" style={stuck(i, 3)}>
								{typeof v === "string" && c.type !== "percentage" ? numberText(v, c) : ""}
							</div>
						);
					})}
				</div>
			)}
		</div>
	);
}

/** A value as text; files as small pictures or names, a choice with the colour of its list. */
function CellText({
	app,
	as,
	row,
	column,
	text,
}: {
	app: string;
	as: string;
	row: Row;
	column: FieldOut;
	text: string;
}) {
	if (column.kind === "file")
		return <Files row={row} column={column} href={hrefOf(app, row, column, as)} height={26} plain />;
	return <ChoiceText row={row} column={column} text={text} picture={(id) => appUrl(app, `/pictures/${id}`)} />;
}

interface HeaderProps {
	column: FieldOut;
	sort?: SortBy;
	style?: React.CSSProperties;
	width: number;
	onSort: (more: boolean) => void;
	onWidth: (w: number) => void;
}

/** The name of a column: a click sorts by it, its right edge can be dragged. */
function Header({ column, sort, style, width, onSort, onWidth }: HeaderProps) {
	return (
		<div
			role="columnheader"
			className="grid-cell !p-0 relative bg-raised"
			style={style}
			aria-sort={sort ? (sort.falling ? "descending" : "ascending") : "none"}
		>
			<button
				type="button"
				tabIndex={-1}
				className="w-full h-full px-2.5 text-left font-semibold inline-flex items-center gap-1"
				onClick={(e) => onSort(e.shiftKey)}
				title={`Sort by ${column.name}; with Shift, also by it`}
			>
				<span className="truncate">{column.name}</span>
				{sort && (sort.falling ? <ArrowDown size={13} aria-hidden /> : <ArrowUp size={13} aria-hidden />)}
			</button>
			<div
				className="absolute right-0 top-0 h-full w-1.5 cursor-col-resize hover:bg-(--pine)"
				onPointerDown={(e) => {
					e.preventDefault();
					const from = e.clientX;
					const move = (m: PointerEvent) => onWidth(Math.max(60, width + m.clientX - from));
					const up = () => {
						window.removeEventListener("pointermove", move);
						window.removeEventListener("pointerup", up);
					};
					window.addEventListener("pointermove", move);
					window.addEventListener("pointerup", up);
				}}
			/>
		</div>
	);
}
