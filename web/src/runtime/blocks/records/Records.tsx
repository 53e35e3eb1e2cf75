import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Download, Plus, Search, X } from "lucide-react";
import { type ComponentType, lazy, Suspense, useEffect, useId, useRef, useState } from "react";
import { Link } from "react-router";
import { wordsOf } from "../../../shared/api/client";
import { valueText } from "../../../shared/fields/values";
import { useAsks, useView } from "../../asks";
import { addressOf, keepValues, listFile, type Records as Shown, type Where } from "../../place";
import { keepWay } from "../../ways";
import type { BlockProps } from "..";
import { CardsWay, GalleryWay, LinesWay } from "./Cards";
import { Filters } from "./Filters";
import { TableWay } from "./Table";
import { useMore } from "./use";
import "./records.css";

/** What shows the rows of a list in one of the ways. */
export interface WayProps {
	list: Shown;
	where: Where;
}

/** What shows each way; those that need more are loaded when somebody looks at one. */
const ways: { [way: string]: { name: string; Way: ComponentType<WayProps> } } = {
	table: { name: "Table", Way: TableWay },
	cards: { name: "Cards", Way: CardsWay },
	gallery: { name: "Gallery", Way: GalleryWay },
	lines: { name: "Lines", Way: LinesWay },
	board: { name: "Board", Way: lazy(() => import("./Board")) },
	calendar: { name: "Calendar", Way: lazy(() => import("./Calendar")) },
};

const whole = ["board", "calendar"]; // they show what there is at once, also where that is nothing

/** Records of a table: in the ways that are offered, narrowed, searched, read on. */
export default function Records({ block: first, where }: BlockProps<"records">) {
	const asks = useAsks(first.id);
	const more = useMore(first, where);
	const list = { ...first, rows: more.rows };
	const Way = (ways[first.as] ?? ways.table)?.Way as ComponentType<WayProps>;
	const heading = useId();
	return (
		<section className="list" aria-labelledby={first.title ? heading : undefined}>
			<Head list={first} where={where} heading={heading} />
			{first.notes.map((n) => (
				<p key={n} className="note note-bad" role="status">
					{n}
				</p>
			))}
			{more.error !== null && <p className="note note-bad">{wordsOf(more.error)}</p>}
			{list.rows.length === 0 && !whole.includes(first.as) ? (
				<div className="card empty">
					{asks.any ? (
						<>
							<p>No records match.</p>
							<button type="button" className="text-link" onClick={asks.clear}>
								Show all
							</button>
						</>
					) : (
						first.empty || "Nothing here yet."
					)}
				</div>
			) : (
				<Suspense fallback={<div className="card empty" aria-busy="true" />}>
					<Way list={list} where={where} />
				</Suspense>
			)}
			{more.next !== "" && !whole.includes(first.as) && (
				<p>
					<button type="button" className="button" onClick={more.read} disabled={more.busy}>
						Show more
					</button>
				</p>
			)}
		</section>
	);
}

/** What stands above the rows: the title, how they are shown, and what can be done with them. */
function Head({ list, where, heading }: { list: Shown; where: Where; heading: string }) {
	const asks = useAsks(list.id);
	const searches =
		list.rows.length > 6 ||
		(list.next !== "" && list.rows.length > 5) ||
		list.search !== "" ||
		list.board ||
		list.calendar;
	const tools = searches || list.filters.length > 0;
	const acts = list.add || list.export || list.ways.length > 1;
	const kept = list.kept ?? [];
	if (!list.title && !tools && !acts && kept.length === 0) return null;
	return (
		<header className="list-head">
			<div className="list-top">
				{list.title && (
					<h2 id={heading} className="list-title">
						{list.title}
					</h2>
				)}
				{list.ways.length > 1 && (
					<fieldset className="list-ways">
						<legend className="sr-only">Shown as</legend>
						{list.ways.map((w) => (
							<button
								key={w}
								type="button"
								aria-pressed={w === list.as}
								onClick={() => {
									keepWay(where.path, list.id, w === list.ways[0] ? "" : w);
									asks.set({ as: w === list.ways[0] ? "" : w });
								}}
							>
								{ways[w]?.name}
							</button>
						))}
					</fieldset>
				)}
				<span className="flex-1" />
				{list.export && <TakeAway list={list} where={where} />}
				{list.add?.to && (
					<Link className="button button-main gap-1" to={addressOf(list.add.to)}>
						<Plus size={16} aria-hidden /> {list.add.text}
					</Link>
				)}
			</div>
			{tools && (
				<div className="list-tools">
					{searches && <Find list={list} />}
					<Filters list={list} where={where} />
				</div>
			)}
			{kept.length > 0 && <ByKept kept={kept} />}
		</header>
	);
}

/** The kept values by which the list is narrowed, which can be forgotten. */
function ByKept({ kept }: { kept: NonNullable<Shown["kept"]> }) {
	const client = useQueryClient();
	const forget = useMutation({ mutationFn: keepValues, onSuccess: () => client.invalidateQueries() });
	return (
		<p className="list-kept">
			<span className="text-soft">Narrowed by</span>
			{kept.map((k) => (
				<span key={k.column.id} className="list-chip">
					{k.column.name}: {valueText({ [k.column.id]: k.value }, k.column)}
					<button
						type="button"
						aria-label={`Forget ${k.column.name}`}
						disabled={forget.isPending}
						onClick={() => forget.mutate({ [k.column.id]: null })}
					>
						<X size={14} aria-hidden />
					</button>
				</span>
			))}
			{forget.isError && <span className="text-berry">{wordsOf(forget.error)}</span>}
		</p>
	);
}

/** Words to be found. They are asked for when somebody stops typing for a moment. */
function Find({ list }: { list: Shown }) {
	const asks = useAsks(list.id);
	const [words, setWords] = useState(asks.get("find"));
	const asked = useRef(words);
	const ask = useRef(asks.set);
	ask.current = asks.set;
	const now = asks.get("find");
	useEffect(() => {
		if (now !== asked.current) {
			asked.current = now;
			setWords(now); // Back, or Show all
		}
	}, [now]);
	useEffect(() => {
		if (words === asked.current) return;
		const timer = setTimeout(() => {
			asked.current = words;
			ask.current({ find: words }, true);
		}, 250);
		return () => clearTimeout(timer);
	}, [words]);
	return (
		<label className="list-find">
			<Search size={16} aria-hidden />
			<span className="sr-only">Search this list</span>
			<input
				type="search"
				className="field-input"
				placeholder="Search"
				maxLength={100}
				value={words}
				onChange={(e) => setWords(e.target.value)}
			/>
		</label>
	);
}

/** The list as a file, as it is narrowed now. */
function TakeAway({ list, where }: { list: Shown; where: Where }) {
	const view = useView(where.path);
	return (
		<span className="list-files">
			<Download size={16} aria-hidden />
			<a className="text-link" href={listFile(list.id, where, view, "xlsx")} download>
				Spreadsheet
			</a>
			<a className="text-link" href={listFile(list.id, where, view, "csv")} download>
				CSV
			</a>
		</span>
	);
}
