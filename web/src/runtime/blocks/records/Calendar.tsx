import { DndContext, type DragEndEvent, useDraggable, useDroppable } from "@dnd-kit/core";
import {
	addDays,
	addMonths,
	addWeeks,
	differenceInCalendarDays,
	eachDayOfInterval,
	format,
	isSameMonth,
	parseISO,
} from "date-fns";
import { ChevronLeft, ChevronRight, Plus } from "lucide-react";
import { Link } from "react-router";
import { dateText, type Row } from "../../../shared/fields/values";
import { region } from "../../../shared/region";
import { useAsks } from "../../asks";
import { addressOf, type Records } from "../../place";
import { Badge, Title } from "./Cards";
import { steps, useHeld } from "./held";
import { choiceOf, lookOf } from "./look";
import { type Moved, useMoves } from "./move";
import type { WayProps } from "./Records";
import { useOpen } from "./use";
import "./calendar.css";

type Shown = NonNullable<Records["calendar"]>;

const iso = (d: Date) => format(d, "yyyy-MM-dd");
const spans = { month: "Month", week: "Week", day: "Day", agenda: "Agenda" } as const;

/** The day of a value, as clocks show it here. */
const dayOf = (v: unknown) => (typeof v !== "string" ? "" : v.length > 10 ? iso(new Date(v)) : v);

/** A value some days later. */
function later(v: unknown, days: number): unknown {
	if (typeof v !== "string") return v;
	if (v.length === 10) return iso(addDays(parseISO(v), days));
	return addDays(new Date(v), days).toISOString().replace(".000", "");
}

/** Records on their days. One is moved to another day by mouse, touch or keyboard, where one may. */
export default function CalendarWay({ list, where }: WayProps) {
	const calendar = list.calendar as Shown;
	const { now, trouble, busy, said, move } = useMoves(list.id, where);
	const rows = list.rows.map(now);
	const moves = list.moves.includes(calendar.from);
	/** Moves a record by some days. */
	const shift = (row: Row, days: number, byKeys = false) => {
		const to: Moved = { [calendar.from]: later(row[calendar.from], days) };
		if (calendar.until && row[calendar.until] && list.moves.includes(calendar.until))
			to[calendar.until] = later(row[calendar.until], days);
		move(list.rows.find((r) => r.id === row.id) as Row, to, dateText(dayOf(to[calendar.from])), byKeys);
	};
	const drop = ({ active, over }: DragEndEvent) => {
		const row = active.data.current?.row as Row | undefined;
		const on = String(active.data.current?.on ?? "");
		if (row && over && over.id !== on) shift(row, differenceInCalendarDays(parseISO(String(over.id)), parseISO(on)));
	};
	const hold = useHeld();
	return (
		<DndContext {...hold} onDragEnd={drop}>
			{trouble && (
				<p role="alert" className="note note-bad">
					{trouble}
				</p>
			)}
			<p className="sr-only" aria-live="polite">
				{said}
			</p>
			<div className="card calendar" aria-busy={busy}>
				<Bar list={list} calendar={calendar} />
				{calendar.span === "agenda" ? (
					<AgendaView list={list} calendar={calendar} rows={rows} />
				) : (
					<Days list={list} calendar={calendar} rows={rows} onShift={moves ? shift : undefined} />
				)}
				{list.next !== "" && (
					<p className="note">There is more on these days than is shown. Filter it, or choose fewer days.</p>
				)}
			</div>
		</DndContext>
	);
}

/** Which days are shown, and the way to others. */
function Bar({ list, calendar }: { list: Records; calendar: Shown }) {
	const asks = useAsks(list.id);
	const day = parseISO(calendar.day);
	const go = (n: number) => {
		const to = { month: addMonths(day, n), week: addWeeks(day, n), day: addDays(day, n), agenda: addDays(day, 30 * n) };
		asks.set({ day: iso(to[calendar.span as keyof typeof to]) });
	};
	const title =
		calendar.span === "month"
			? day.toLocaleDateString(region(), { month: "long", year: "numeric" })
			: calendar.span === "day"
				? dateText(calendar.day)
				: `${dateText(calendar.first)} – ${dateText(calendar.last)}`;
	return (
		<header className="calendar-bar">
			<h3 aria-live="polite">{title}</h3>
			<span className="flex gap-1">
				<button type="button" className="icon-button" aria-label="Earlier" onClick={() => go(-1)}>
					<ChevronLeft size={18} aria-hidden />
				</button>
				<button type="button" className="button" onClick={() => asks.set({ day: "" })}>
					Today
				</button>
				<button type="button" className="icon-button" aria-label="Later" onClick={() => go(1)}>
					<ChevronRight size={18} aria-hidden />
				</button>
			</span>
			<fieldset className="list-ways">
				<legend className="sr-only">Days shown</legend>
				{Object.entries(spans).map(([span, words]) => (
					<button
						key={span}
						type="button"
						aria-pressed={span === calendar.span}
						onClick={() => asks.set({ span: span === "month" ? "" : span })}
					>
						{words}
					</button>
				))}
			</fieldset>
		</header>
	);
}

interface DaysProps {
	list: Records;
	calendar: Shown;
	rows: Row[];
}

/** The records of a day, those that began earlier first. */
function on(day: string, { calendar, rows }: DaysProps): Row[] {
	return rows.filter((r) => {
		const from = dayOf(r[calendar.from]);
		const until = calendar.until ? dayOf(r[calendar.until]) : "";
		return from === day || (from < day && until >= day);
	});
}

interface MovingProps extends DaysProps {
	/** Moves a record by some days, where one may. */
	onShift?: (row: Row, days: number, byKeys: boolean) => void;
}

function Days(p: MovingProps) {
	const { calendar } = p;
	const days = eachDayOfInterval({ start: parseISO(calendar.first), end: parseISO(calendar.last) });
	return (
		<div className={`calendar-days calendar-${calendar.span}`}>
			{calendar.span !== "day" &&
				days.slice(0, 7).map((d) => (
					<span key={d.getDay()} className="calendar-weekday" aria-hidden>
						{d.toLocaleDateString(region(), { weekday: "short" })}
					</span>
				))}
			{days.map((d) => (
				<DayView key={iso(d)} {...p} day={d} />
			))}
		</div>
	);
}

function DayView({ day, onShift, ...p }: MovingProps & { day: Date }) {
	const { list, calendar } = p;
	const id = iso(day);
	const { setNodeRef, isOver } = useDroppable({ id });
	const all = on(id, p);
	const asks = useAsks(list.id);
	const most = calendar.span === "month" ? 4 : all.length;
	const other = calendar.span === "month" && !isSameMonth(day, parseISO(calendar.day));
	return (
		<section
			ref={setNodeRef}
			aria-label={dateText(id)}
			className={`calendar-day ${isOver ? "calendar-over" : ""} ${other ? "calendar-other" : ""} ${id === calendar.today ? "calendar-today" : ""} ${all.length ? "" : "calendar-free"}`}
		>
			<p className="calendar-date">
				<span className="calendar-number">{day.getDate()}</span>
				<span className="calendar-full">{dateText(id)}</span>
				{list.add?.to && (
					<Link
						className="calendar-add"
						to={`${addressOf(list.add.to)}?set.${calendar.from}=${id}`}
						aria-label={`${list.add.text} on ${dateText(id)}`}
					>
						<Plus size={14} aria-hidden />
					</Link>
				)}
			</p>
			<ul>
				{all.slice(0, most).map((r) => (
					<Entry key={String(r.id)} list={list} row={r} day={id} onShift={onShift} />
				))}
			</ul>
			{all.length > most && (
				<button type="button" className="text-link text-sm" onClick={() => asks.set({ span: "day", day: id })}>
					{all.length - most} more
				</button>
			)}
		</section>
	);
}

interface EntryProps {
	list: Records;
	row: Row;
	day: string;
	onShift: MovingProps["onShift"];
}

function Entry({ list, row, day, onShift }: EntryProps) {
	const open = useOpen(list);
	const moves = onShift !== undefined;
	const { setNodeRef, listeners, transform, isDragging } = useDraggable({
		id: `${row.id} ${day}`,
		data: { row, on: day },
		disabled: !moves,
	});
	const look = lookOf(list, row);
	const tint = look["data-tone"] ? "var(--tone)" : choiceOf(list, row, list.badge)?.colour;
	return (
		<li
			ref={setNodeRef}
			data-record={String(row.id)}
			className={`calendar-entry ${isDragging ? "calendar-held" : ""} ${moves ? "board-moves" : ""}`}
			data-tone={look["data-tone"]}
			style={
				{
					...look.style,
					"--tint": tint || "var(--main)",
					transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined,
				} as React.CSSProperties
			}
			{...(onShift && {
				...listeners,
				tabIndex: 0,
				onKeyDown: steps((right, down) => onShift(row, right + 7 * down, true)),
				"aria-roledescription": "entry; Alt and the arrows move it to other days",
			})}
		>
			<Title row={row} open={open} />
		</li>
	);
}

/** Days with what is on them, one under the other. */
function AgendaView(p: DaysProps) {
	const open = useOpen(p.list);
	const days = eachDayOfInterval({ start: parseISO(p.calendar.first), end: parseISO(p.calendar.last) })
		.map(iso)
		.map((day) => ({ day, rows: on(day, p) }))
		.filter((d) => d.rows.length > 0);
	if (days.length === 0) return <p className="empty">{p.list.empty || "Nothing on these days."}</p>;
	return (
		<ul className="agenda">
			{days.map(({ day, rows }) => (
				<li key={day}>
					<h4 className={day === p.calendar.today ? "calendar-now" : ""}>
						{parseISO(day).toLocaleDateString(region(), { weekday: "long", day: "numeric", month: "long" })}
					</h4>
					<ul>
						{rows.map((r) => (
							<li key={String(r.id)} className="record-top" {...lookOf(p.list, r)}>
								<Title row={r} open={open} />
								<Badge list={p.list} row={r} />
							</li>
						))}
					</ul>
				</li>
			))}
		</ul>
	);
}
