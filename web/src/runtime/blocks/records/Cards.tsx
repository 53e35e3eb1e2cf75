import type { ReactNode } from "react";
import { Link } from "react-router";
import type { FileInfo } from "../../../shared/fields/files";
import { type Column, type Row, valueText } from "../../../shared/fields/values";
import { fileHref, pictureHref, type Records } from "../../place";
import { Cell, EditCell } from "./Cell";
import { Inside, useUnfold } from "./Inside";
import { choiceOf, lookOf } from "./look";
import type { WayProps } from "./Records";
import { type Open, useOpen } from "./use";

/** The title of a record, which opens it. */
export function Title({ row, open }: { row: Row; open: Open }) {
	const text = String(row.label || "No name");
	return open ? (
		<Link to={open.to(row)} className="record-title">
			{text}
		</Link>
	) : (
		<span className="record-title">{text}</span>
	);
}

const found = (list: Records, id?: string) => [...list.columns, ...list.fields].find((c) => c.id === id);

/** The choice that stands out, in its colour. */
export function Badge({ list, row }: { list: Records; row: Row }) {
	const choice = choiceOf(list, row, list.badge);
	if (!choice) return null;
	return (
		<span className="badge" style={{ "--tint": choice.colour || "var(--edge)" } as React.CSSProperties}>
			{choice.picture && <img src={pictureHref(choice.picture)} alt="" className="h-4" />}
			{choice.label}
		</span>
	);
}

/** The first picture of a record, or nothing. */
function Picture({ list, row, small }: { list: Records; row: Row; small?: boolean }) {
	const column = found(list, list.picture);
	if (!column) return null;
	const files = row[`${column.id}~`];
	const file = Array.isArray(files) ? (files[0] as FileInfo | undefined) : undefined;
	if (!file)
		return (
			<span className="record-picture record-blank" aria-hidden>
				{String(row.label).slice(0, 1)}
			</span>
		);
	return <img className="record-picture" loading="lazy" src={fileHref(row, column)(file, small ?? true)} alt="" />;
}

/** What is said of a record below its title: columns but its badge and picture, and what its title says already. */
export function lines(list: Records, row: Row): Column[] {
	const said = (c: Column) => {
		const text = valueText(row, c);
		return text === "" || (c.kind === "text" && String(row.label).includes(text));
	};
	const apart = [list.badge, list.picture, list.board?.field];
	return list.columns.filter((c) => !apart.includes(c.id) && (list.edits.includes(c.id) || !said(c)));
}

/** Long texts stand by themselves. */
const long = ["long text", "rich text"];

/** Lines of a card: each column with its name. */
export function Lines({ list, where, row, most = 6 }: WayProps & { row: Row; most?: number }) {
	return (
		<dl className="record-lines">
			{lines(list, row)
				.slice(0, most)
				.map((c) => (
					<div key={c.id} className={long.includes(c.type) ? "record-long" : undefined}>
						<dt>{c.name}</dt>
						<dd>
							{list.edits.includes(c.id) ? (
								<EditCell row={row} column={c} block={list.id} where={where} />
							) : (
								<Cell row={row} column={c} />
							)}
						</dd>
					</div>
				))}
		</dl>
	);
}

function Items({ list, className, children }: { list: Records; className: string; children: (row: Row) => ReactNode }) {
	return (
		<ul className={className}>
			{list.rows.map((r) => (
				<li key={String(r.id)} className="record" data-row {...lookOf(list, r)}>
					{children(r)}
				</li>
			))}
		</ul>
	);
}

/** Rows as cards: a picture, the title, a badge and some lines. */
export function CardsWay({ list, where }: WayProps) {
	const open = useOpen(list);
	return (
		<Items list={list} className="record-cards">
			{(r) => (
				<>
					<Picture list={list} row={r} />
					<div className="record-body">
						<p className="record-top">
							<Title row={r} open={open} />
							<Badge list={list} row={r} />
						</p>
						<Lines list={list} where={where} row={r} />
						<Inside list={list} where={where} row={r} />
					</div>
				</>
			)}
		</Items>
	);
}

/** Rows as pictures with their titles. */
export function GalleryWay({ list, where }: WayProps) {
	const open = useOpen(list);
	return (
		<Items list={list} className="record-gallery">
			{(r) => (
				<>
					<Picture list={list} row={r} />
					<p className="record-top">
						<Title row={r} open={open} />
						<Badge list={list} row={r} />
					</p>
					<Inside list={list} where={where} row={r} />
				</>
			)}
		</Items>
	);
}

/** Rows as lines: the title, and behind it what else is to be said. */
export function LinesWay({ list, where }: WayProps) {
	return (
		<Items list={list} className="card record-list">
			{(r) => <Line list={list} where={where} row={r} />}
		</Items>
	);
}

function Line({ list, where, row }: WayProps & { row: Row }) {
	const open = useOpen(list);
	const { button, unfolded } = useUnfold(list, row);
	return (
		<>
			<div className="record-line">
				{button}
				<div className="min-w-0 flex-1">
					<Title row={row} open={open} />
					<p className="text-soft record-said">
						{lines(list, row).map((c, i) => (
							<span key={c.id}>
								{i > 0 && " · "}
								<Cell row={row} column={c} />
							</span>
						))}
					</p>
				</div>
				<Inside list={list} where={where} row={row} />
				<Badge list={list} row={row} />
			</div>
			{unfolded}
		</>
	);
}
