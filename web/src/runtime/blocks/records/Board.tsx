import { DndContext, type DragEndEvent, DragOverlay, useDraggable, useDroppable } from "@dnd-kit/core";
import { useState } from "react";
import type { Row } from "../../../shared/fields/values";
import type { Records } from "../../place";
import { Badge, Lines, Title } from "./Cards";
import { steps, useHeld } from "./held";
import { Inside } from "./Inside";
import { lookOf } from "./look";
import { useMoves } from "./move";
import type { WayProps } from "./Records";
import { Sums } from "./Table";
import { useMore, useOpen } from "./use";
import "./board.css";

type Shown = NonNullable<Records["board"]>;
type Column = Shown["columns"][number];

const none = "none"; // the column of those without a choice

/** Records in columns by their choices. A card is moved by mouse, touch or keyboard, where one may. */
export default function BoardWay({ list, where }: WayProps) {
	const board = list.board as Shown;
	const { now, trouble, busy, said, move } = useMoves(list.id, where);
	const [held, setHeld] = useState<Row | null>(null);
	const moves = list.moves.includes(board.field);
	const hold = useHeld();
	const kind = held ? "board board-holding" : "board";
	/** Moves a record to a column. */
	const put = (row: Row, to: Column | undefined, byKeys = false) => {
		if (to && to.value !== (now(row)[board.field] ?? ""))
			move(row, { [board.field]: to.value || null }, to.label || "none", byKeys);
	};
	const drop = ({ active, over }: DragEndEvent) => {
		setHeld(null);
		const row = active.data.current?.row as Row | undefined;
		if (row && over)
			put(
				row,
				board.columns.find((c) => (c.value || none) === over.id),
			);
	};
	return (
		<DndContext
			{...hold}
			onDragStart={(e) => setHeld((e.active.data.current?.row as Row) ?? null)}
			onDragEnd={drop}
			onDragCancel={() => setHeld(null)}
		>
			{trouble && (
				<p role="alert" className="note note-bad">
					{trouble}
				</p>
			)}
			<p className="sr-only" aria-live="polite">
				{said}
			</p>
			{/* biome-ignore lint/a11y/noNoninteractiveTabindex: a board that is wider than the page is scrolled by keys, too */}
			<section className={kind} aria-label={list.title || "Board"} aria-busy={busy} tabIndex={0}>
				{board.columns.map((c, i) => (
					<ColumnView
						key={c.value}
						list={list}
						where={where}
						column={c}
						now={now}
						moves={moves}
						onStep={(row, by) => put(row, board.columns[i + by], true)}
					/>
				))}
			</section>
			<DragOverlay dropAnimation={null}>
				{held && (
					<div className="board-card board-held">
						<span className="record-title">{String(held.label)}</span>
					</div>
				)}
			</DragOverlay>
		</DndContext>
	);
}

interface ColumnProps extends WayProps {
	column: Column;
	/** A record as it is to be. */
	now: (row: Row) => Row;
	moves: boolean;
	/** Moves a record by so many columns. */
	onStep: (row: Row, by: number) => void;
}

function ColumnView({ list, where, column, now, moves, onStep }: ColumnProps) {
	const field = list.board?.field ?? "";
	const more = useMore({ id: list.id, rows: column.rows, next: column.next }, where, column.value);
	const { setNodeRef, isOver } = useDroppable({ id: column.value || none });
	const linked = [...list.columns, ...list.fields].find((c) => c.id === field)?.kind === "record";
	const called = column.label || (linked ? "None" : "No choice");
	const here = (r: Row) => (now(r)[field] ?? "") === column.value;
	const others = (list.board?.columns ?? []).filter((c) => c.value !== column.value).flatMap((c) => c.rows);
	const rows = [...others, ...more.rows].filter(here);
	return (
		<section
			ref={setNodeRef}
			className={`board-column ${isOver ? "board-over" : ""}`}
			style={{ "--tint": column.colour || "var(--edge)" } as React.CSSProperties}
			aria-label={called}
		>
			<header className="board-head">
				<h3>{called}</h3>
				<span className="board-count">{column.count}</span>
				<span className="board-sums">
					<Sums list={list} total={column} />
				</span>
			</header>
			<ul className="board-cards">
				{rows.map((r) => (
					<CardView key={String(r.id)} list={list} where={where} row={r} moves={moves} onStep={onStep} />
				))}
				{rows.length === 0 && <li className="board-none">Nothing here</li>}
			</ul>
			{more.next !== "" && (
				<button type="button" className="text-link m-2" onClick={more.read} disabled={more.busy}>
					Show more
				</button>
			)}
		</section>
	);
}

interface CardProps extends WayProps {
	row: Row;
	moves: boolean;
	onStep: (row: Row, by: number) => void;
}

function CardView({ list, where, row, moves, onStep }: CardProps) {
	const open = useOpen(list);
	const { setNodeRef, listeners, isDragging } = useDraggable({
		id: String(row.id),
		data: { row },
		disabled: !moves,
	});
	return (
		<li
			ref={setNodeRef}
			data-record={String(row.id)}
			data-row
			{...lookOf(list, row)}
			className={`board-card ${isDragging ? "board-away" : ""} ${moves ? "board-moves" : ""}`}
			{...(moves && {
				...listeners,
				tabIndex: 0,
				onKeyDown: steps((right) => right && onStep(row, right)),
				"aria-roledescription": "card; Alt and the arrows left and right move it",
			})}
		>
			<p className="record-top">
				<Title row={row} open={open} />
				{list.badge !== list.board?.field && <Badge list={list} row={row} />}
			</p>
			<Lines list={list} where={where} row={row} most={3} />
			<Inside list={list} where={where} row={row} />
		</li>
	);
}
