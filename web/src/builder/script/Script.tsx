import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { ChevronDown, ChevronRight } from "lucide-react";
import { useContext, useEffect, useRef } from "react";
import { request, withQuery } from "../../shared/api/client";
import { appUrl, type CountList, type Line, type Script as ScriptData, useOfApp } from "../api";
import { ErrorNote, Loading } from "../ui";
import { Actions } from "./Actions";
import { LineView, nameOf, Parts, Place, type ScriptPlace, textOf } from "./LineView";

interface ScriptProps extends ScriptPlace {
	stop: "data" | "people" | "pages" | "workflows";
	/** The id of the table, role or page whose sentences are open. */
	open: string;
	onOpen: (id: string) => void;
}

/** The column of sentences. Underlined words are settings. */
export function Script({ stop, open, onOpen, ...place }: ScriptProps) {
	const url = withQuery(appUrl(place.app, `/script/${stop}`), { open });
	const script = useQuery({
		queryKey: ["app", place.app, url],
		queryFn: () => request<ScriptData>("GET", url),
		placeholderData: keepPreviousData,
	});
	const counts = useOfApp<CountList>(place.app, "/counts", {}, stop === "data");
	if (script.isError && !script.data) return <ErrorNote error={script.error} retry={() => void script.refetch()} />;
	if (!script.data) return <Loading />;
	return (
		<Place.Provider value={place}>
			<div className="p-3 grid gap-1 content-start" data-script aria-busy={script.isPlaceholderData}>
				{script.data.lines.map((l) =>
					l.kind === "heading" ? (
						<GroupView
							key={l.id}
							line={l}
							open={l.id === open && !l.folded}
							count={counts.data && countText(counts.data, l.id)}
							onOpen={() => onOpen(l.id === open ? "" : l.id)}
						/>
					) : (
						<div key={l.id} className="px-2 py-1">
							<LineView line={l} />
						</div>
					),
				)}
			</div>
		</Place.Provider>
	);
}

/** How many records a table has; those beyond what is counted are not. */
function countText(counts: CountList, id: string): string {
	const n = counts.counts[id];
	if (n === undefined) return "";
	return n > counts.most ? `${counts.most.toLocaleString()}+` : n.toLocaleString();
}

function GroupView({ line, open, count, onOpen }: { line: Line; open: boolean; count?: string; onOpen: () => void }) {
	const { app, still } = useContext(Place);
	const ref = useRef<HTMLElement>(null);
	useEffect(() => {
		if (open) ref.current?.scrollIntoView({ block: "nearest" });
	}, [open]);
	const title = textOf(line);
	return (
		<section ref={ref} className={open ? "bg-surface border border-line rounded-md my-1" : ""}>
			<h3 className="flex items-center gap-1 px-2 min-h-9">
				<button
					type="button"
					className="p-1 -ml-1"
					aria-expanded={open}
					aria-label={`${open ? "Close" : "Open"} ${title}`}
					onClick={onOpen}
				>
					{open ? <ChevronDown size={15} /> : <ChevronRight size={15} />}
				</button>
				{open ? (
					<span className="font-display font-semibold text-base flex-1">
						<Parts of={line.of ?? ""} parts={line.parts} />
					</span>
				) : (
					<button type="button" className="flex-1 text-left font-medium" onClick={onOpen} tabIndex={-1}>
						{title}
					</button>
				)}
				{count && (
					<span className="text-soft tabular-nums" title={count === "1" ? "1 record" : `${count} records`}>
						{count}
					</span>
				)}
				{open && !still && <Actions app={app} line={line} name={nameOf(line)} />}
			</h3>
			{open && (
				<div className="px-2 pb-2 grid gap-0.5">
					{line.lines?.map((l) => (
						<LineView key={l.id} line={l} />
					))}
				</div>
			)}
		</section>
	);
}
