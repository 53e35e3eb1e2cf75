import {
	DndContext,
	type DragEndEvent,
	DragOverlay,
	type KeyboardCoordinateGetter,
	useDraggable,
	useDroppable,
} from "@dnd-kit/core";
import { useState } from "react";
import type { Row } from "../../../shared/fields/values";
import type { Records, Where } from "../../place";
import { Badge, Lines, Title } from "./Cards";
import { useHeld } from "./held";
import { useMoves } from "./move";
import type { WayProps } from "./Records";
import { Sums } from "./Table";
import { useMore, useOpen } from "./use";
import "./board.css";

type Shown = NonNullable<Records["board"]>;
type Column = Shown["columns"][number];

const none = "none"; // the column of those without a choice

/** Moves by arrow keys from column to column. */
const byColumn: KeyboardCoordinateGetter = (e, { context, currentCoordinates }) => {
	const step = e.code === "ArrowRight" ? 1 : e.code === "ArrowLeft" ? -1 : 0;
	if (!step) return undefined;
	e.preventDefault();
	const columns = [...context.droppableRects.values()].sort((a, b) => a.left - b.left || a.top - b.top);
	const x = currentCoordinates.x + (context.collisionRect?.width ?? 0) / 2;
	const at = columns.findIndex((c) => c.left <= x && x <= c.right);
	const next = columns[Math.min(Math.max(at + step, 0), columns.length - 1)];
	return next && { x: next.left + 8, y: next.top + 48 };
};

/** Records in columns by their choices. A card is moved by mouse, touch or keyboard, where one may. */
export default function BoardWay({ list, where }: WayProps) {
	const board = list.board as Shown;
	const { moved, trouble, move } = useMoves(list.id, where);
	const [held, setHeld] = useState<Row | null>(null);
	const moves = list.moves.includes(board.field);
	const all = board.columns.flatMap((c) => c.rows);
	const name = (id: string | number) => String(all.find((r) => r.id === id)?.label ?? "The card");
	const column = (id: string | number | undefined) =>
		board.columns.find((c) => (c.value || none) === id)?.label || "no choice";
	const hold = useHeld({ coordinates: byColumn, name, place: column, keys: "Left and right move it", moves });
	const drop = ({ active, over }: DragEndEvent) => {
		setHeld(null);
		const row = active.data.current?.row as Row | undefined;
		if (!row || !over) return;
		const to = over.id === none ? null : String(over.id);
		if (to !== (row[board.field] ?? null)) move(row, { [board.field]: to });
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
			{/* biome-ignore lint/a11y/noNoninteractiveTabindex: a board that is wider than the page is scrolled by keys, too */}
			<section className="board" aria-label={list.title || "Board"} tabIndex={0}>
				{board.columns.map((c) => (
					<ColumnView key={c.value} list={list} where={where} column={c} moved={moved} moves={moves} />
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
	moved: ReturnType<typeof useMoves>["moved"];
	moves: boolean;
}

function ColumnView({ list, where, column, moved, moves }: ColumnProps) {
	const field = list.board?.field ?? "";
	const more = useMore({ id: list.id, rows: column.rows, next: column.next }, where, column.value);
	const { setNodeRef, isOver } = useDroppable({ id: column.value || none });
	const here = (r: Row) => (moved[String(r.id)] ? (moved[String(r.id)]?.[field] ?? "") === column.value : true);
	const others = (list.board?.columns ?? [])
		.filter((c) => c.value !== column.value)
		.flatMap((c) => c.rows)
		.filter((r) => moved[String(r.id)] && (moved[String(r.id)]?.[field] ?? "") === column.value);
	const rows = [...others, ...more.rows.filter(here)];
	return (
		<section
			ref={setNodeRef}
			className={`board-column ${isOver ? "board-over" : ""}`}
			style={{ "--tint": column.colour || "var(--edge)" } as React.CSSProperties}
			aria-label={column.label || "No choice"}
		>
			<header className="board-head">
				<h3>{column.label || "No choice"}</h3>
				<span className="board-count">{column.count}</span>
				<span className="board-sums">
					<Sums list={list} total={column} />
				</span>
			</header>
			<ul className="board-cards">
				{rows.map((r) => (
					<CardView key={String(r.id)} list={list} where={where} row={r} moves={moves} />
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

function CardView({ list, where, row, moves }: { list: Records; where: Where; row: Row; moves: boolean }) {
	const open = useOpen(list);
	const { setNodeRef, setActivatorNodeRef, attributes, listeners, isDragging } = useDraggable({
		id: String(row.id),
		data: { row },
		disabled: !moves,
	});
	return (
		<li
			ref={(node) => {
				setNodeRef(node);
				setActivatorNodeRef(node); // keys that are pressed inside are not for it
			}}
			className={`board-card ${isDragging ? "board-away" : ""} ${moves ? "board-moves" : ""}`}
			{...(moves && {
				...listeners,
				tabIndex: 0,
				"aria-describedby": attributes["aria-describedby"],
				"aria-roledescription": "card that can be moved",
			})}
		>
			<p className="record-top">
				<Title row={row} open={open} />
				{list.badge !== list.board?.field && <Badge list={list} row={row} />}
			</p>
			<Lines list={list} where={where} row={row} most={3} />
		</li>
	);
}
