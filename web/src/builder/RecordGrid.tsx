import { useMutation } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp, Trash2 } from "lucide-react";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { toast } from "sonner";
import { Problem, request, withQuery, wordsOf } from "../shared/api/client";
import { ValueInput } from "../shared/fields/input";
import { fieldValue, type Row, type Value, valueText } from "../shared/fields/values";
import { searchLinks } from "./AddRecord";
import { appUrl, type FieldOut, useRefresh, type Written } from "./api";
import { Confirm } from "./ui";

interface GridProps {
	app: string;
	table: string;
	as: string;
	columns: FieldOut[];
	rows: Row[];
	sort: { field: string; falling: boolean };
	onSort: (field: string) => void;
	onEnd: () => void;
}

const rowHeight = 35;

function widthOf(f: FieldOut): number {
	switch (f.type) {
		case "yes/no":
		case "number":
			return 120;
		case "long text":
			return 260;
		case "date":
			return 130;
		case "e-mail":
			return 220;
	}
	return 170;
}

/** The words of a refused write, with what is wrong at the field. */
function refusal(e: unknown): string {
	const at = e instanceof Problem ? e.mistakes[0]?.message : undefined;
	return at ? `${at} Nothing was changed.` : wordsOf(e);
}

/** The records in rows, edited in place. */
export function RecordGrid(p: GridProps) {
	const scroller = useRef<HTMLDivElement>(null);
	const [active, setActive] = useState({ row: 0, column: 0 });
	const [editing, setEditing] = useState<{ start?: string } | null>(null);
	const [removing, setRemoving] = useState<Row | null>(null);
	const refresh = useRefresh(p.app);
	const url = (row: Row) => appUrl(p.app, `/tables/${p.table}/records/${row.id}`);
	const write = useMutation({
		mutationFn: ({ row, field, value }: { row: Row; field: string; value: Value }) =>
			request<Written>("PATCH", withQuery(url(row), { as: p.as }), {
				revision: row.revision,
				values: { [field]: value },
			}),
		onError: (e) => toast.error(refusal(e), { duration: 10_000 }),
		onSettled: refresh,
	});
	const remove = useMutation({
		mutationFn: (row: Row) =>
			request<void>("DELETE", withQuery(url(row), { as: p.as, revision: Number(row.revision) })),
		onSuccess: () => toast.success("Deleted. Undo brings the record back."),
		onError: (e) => toast.error(refusal(e), { duration: 10_000 }),
		onSettled: refresh,
	});
	const virtual = useVirtualizer({
		count: p.rows.length,
		getScrollElement: () => scroller.current,
		estimateSize: () => rowHeight,
		overscan: 12,
	});
	const items = virtual.getVirtualItems();
	const last = items.at(-1)?.index ?? 0;
	const { onEnd } = p;
	useEffect(() => {
		if (last >= p.rows.length - 20) onEnd();
	}, [last, p.rows.length, onEnd]);
	const go = (row: number, column: number) => {
		const next = {
			row: Math.max(0, Math.min(p.rows.length - 1, row)),
			column: Math.max(0, Math.min(p.columns.length - 1, column)),
		};
		setActive(next);
		virtual.scrollToIndex(next.row);
		scroller.current?.focus();
	};
	const save = (value: Value) => {
		const row = p.rows[active.row];
		const column = p.columns[active.column];
		setEditing(null);
		scroller.current?.focus();
		if (row && column && value !== fieldValue(row, column)) write.mutate({ row, field: column.id, value });
	};
	const keys = (e: KeyboardEvent) => {
		if (editing) return;
		const step: Record<string, [number, number]> = {
			ArrowUp: [-1, 0],
			ArrowDown: [1, 0],
			ArrowLeft: [0, -1],
			ArrowRight: [0, 1],
		};
		const by = step[e.key] ?? (e.key === "Tab" ? [0, e.shiftKey ? -1 : 1] : undefined);
		const leaves = e.key === "Tab" && (e.shiftKey ? active.column === 0 : active.column === p.columns.length - 1);
		if (by && !leaves) go(active.row + (by[0] ?? 0), active.column + (by[1] ?? 0));
		else if (e.key === "Enter" || e.key === "F2") setEditing({});
		else if (e.key === "Delete" || e.key === "Backspace") save(null);
		else if (e.key.length === 1 && e.key !== " " && e.key !== "?" && !e.ctrlKey && !e.metaKey && !e.altKey) {
			// the editor is there and has the focus before the browser enters the character
			flushSync(() => setEditing({ start: "" }));
			return;
		} else return;
		e.preventDefault();
	};
	const template = `36px ${p.columns.map((c) => `${widthOf(c)}px`).join(" ")}`;
	const width = p.columns.reduce((n, c) => n + widthOf(c), 36);
	return (
		<div
			ref={scroller}
			className="flex-1 min-h-0 overflow-auto bg-surface outline-offset-[-2px]"
			role="grid"
			aria-rowcount={p.rows.length + 1}
			aria-colcount={p.columns.length}
			tabIndex={0}
			onKeyDown={keys}
		>
			<div
				role="row"
				className="grid sticky top-0 z-10 bg-raised border-b border-line"
				style={{ gridTemplateColumns: template, width }}
			>
				<div role="columnheader" aria-label="Delete" className="border-r border-line" />
				{p.columns.map((c) => (
					<div
						key={c.id}
						role="columnheader"
						className="grid-cell !p-0"
						aria-sort={p.sort.field === c.id ? (p.sort.falling ? "descending" : "ascending") : "none"}
					>
						<button
							type="button"
							tabIndex={-1}
							className="w-full h-full px-2.5 text-left font-semibold inline-flex items-center gap-1"
							onClick={() => p.onSort(c.id)}
							title={`Sort by ${c.name}`}
						>
							<span className="truncate">{c.name}</span>
							{p.sort.field === c.id &&
								(p.sort.falling ? <ArrowDown size={13} aria-hidden /> : <ArrowUp size={13} aria-hidden />)}
						</button>
					</div>
				))}
			</div>
			<div className="relative" style={{ height: virtual.getTotalSize(), width }}>
				{items.map((item) => {
					const row = p.rows[item.index];
					if (!row) return null;
					return (
						<div
							key={String(row.id)}
							role="row"
							aria-rowindex={item.index + 2}
							className="grid absolute inset-x-0 border-b border-line group"
							style={{ gridTemplateColumns: template, height: rowHeight, transform: `translateY(${item.start}px)` }}
						>
							<div role="gridcell" className="sticky left-0 bg-surface border-r border-line">
								<button
									type="button"
									tabIndex={-1}
									className="grid place-content-center h-full w-full text-soft opacity-40 group-hover:opacity-100 focus:opacity-100 hover:text-berry"
									aria-label={`Delete ${row.label ?? "this record"}`}
									onClick={() => setRemoving(row)}
								>
									<Trash2 size={15} />
								</button>
							</div>
							{p.columns.map((c, i) => {
								const on = active.row === item.index && active.column === i;
								return (
									// biome-ignore lint/a11y/useKeyWithClickEvents: the grid itself has the keys
									<div
										key={c.id}
										role="gridcell"
										tabIndex={-1}
										data-field={c.id}
										data-active={on || undefined}
										className={`grid-cell ${c.type === "number" ? "text-right" : ""} ${on && editing ? "!overflow-visible !p-0" : ""}`}
										onClick={() => {
											if (on && editing) return;
											setEditing(null);
											go(item.index, i);
										}}
										onDoubleClick={() => setEditing({})}
									>
										{on && editing ? (
											<CellEditor
												app={p.app}
												as={p.as}
												column={c}
												row={row}
												start={editing.start}
												onSave={save}
												onLeave={() => setEditing(null)}
											/>
										) : (
											valueText(row, c)
										)}
									</div>
								);
							})}
						</div>
					);
				})}
			</div>
			{removing && (
				<Confirm
					text={`Delete ${removing.label ?? "this record"}? It goes to the bin, and undo brings it back.`}
					label="Delete"
					onNo={() => setRemoving(null)}
					onYes={() => {
						remove.mutate(removing);
						setRemoving(null);
					}}
				/>
			)}
		</div>
	);
}

interface EditorProps {
	app: string;
	as: string;
	column: FieldOut;
	row: Row;
	start?: string;
	onSave: (v: Value) => void;
	onLeave: () => void;
}

/** Edits one cell: Enter keeps, Esc leaves it as it was. */
function CellEditor({ app, as, column, row, start, onSave, onLeave }: EditorProps) {
	const typed = start !== undefined && ["text", "long text", "number", "e-mail"].includes(column.type);
	const [value, setValue] = useState<Value>(typed ? start : fieldValue(row, column));
	const label = row[`${column.id}~`];
	const atOnce = column.type === "choice" || column.type === "yes/no" || column.type === "link";
	const box = useRef<HTMLDivElement>(null);
	// leaving the editor takes the focus from it, which must not save a second time
	const done = useRef(false);
	const finish = (how: () => void) => {
		if (done.current) return;
		done.current = true;
		how();
	};
	const keys = (e: KeyboardEvent) => {
		e.stopPropagation();
		if (e.key === "Escape") finish(onLeave);
		else if (e.key === "Enter" && !(column.type === "long text" && e.shiftKey) && column.type !== "link") {
			e.preventDefault();
			finish(() => onSave(value));
		}
	};
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: keys of the control inside
		<div
			ref={box}
			className={`${column.type === "link" || column.type === "long text" ? "absolute z-20 bg-surface border border-line rounded-md p-1 w-72 leading-normal whitespace-normal" : "leading-normal"}`}
			onKeyDown={keys}
			onBlur={(e) => {
				if (!box.current?.contains(e.relatedTarget)) finish(() => onSave(value));
			}}
		>
			<ValueInput
				id={`cell-${column.id}`}
				column={column}
				value={value}
				autoFocus
				label={typeof label === "string" ? label : ""}
				search={column.target ? searchLinks(app, column.target, as) : undefined}
				onChange={(v) => {
					setValue(v);
					if (atOnce) finish(() => onSave(v));
				}}
			/>
		</div>
	);
}
