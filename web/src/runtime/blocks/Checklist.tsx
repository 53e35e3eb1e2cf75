import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { request, wordsOf } from "../../shared/api/client";
import { dateText, timeText } from "../../shared/fields/values";
import { say } from "../../shared/words";
import { type BlockOf, base, newKey } from "../place";
import type { BlockProps } from ".";
import "./checklist.css";

type Shown = BlockOf<"checklist">;
type Item = Shown["items"][number];

interface Tick {
	item: Item;
	done: boolean;
}

/** What is to be done for a record: ticked off one by one, with how far it is. */
export default function Checklist({ block, where }: BlockProps<"checklist">) {
	const client = useQueryClient();
	const read = () => client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "form" });
	const at = { path: where.path, record: where.record || undefined };
	// what was ticked and is on its way; ticks go one after the other, as each counts the record's revision further
	const [wanted, setWanted] = useState<Record<string, boolean>>({});
	const revisions = useRef(new Map<string, number>());
	const settled = ({ item, done }: Tick) =>
		setWanted((now) => {
			const { [item.id]: last, ...others } = now;
			return last === done ? others : now;
		});
	const tick = useMutation({
		scope: { id: `ticks ${block.id}` },
		mutationFn: async ({ item, done }: Tick) => {
			const revision = Math.max(item.revision, revisions.current.get(item.id) ?? 0);
			await request<void>("POST", `${base}/-/checklists/${block.id}/ticks`, { ...at, item: item.id, revision, done });
			revisions.current.set(item.id, revision + 1);
		},
		onMutate: ({ item, done }) => setWanted((now) => ({ ...now, [item.id]: done })),
		onSettled: async (_, __, what) => {
			await read();
			settled(what);
		},
	});
	const [key, setKey] = useState(newKey);
	const begin = useMutation({
		mutationFn: (gained: boolean) =>
			request<void>("POST", `${base}/-/checklists/${block.id}`, { ...at, key, round: block.round, gained }),
		onSettled: () => {
			setKey(newKey());
			return read();
		},
	});
	const is = (item: Item) => wanted[item.id] ?? item.done;
	const done = block.items.filter(is).length;
	const failed = tick.error ?? begin.error;
	const acts = [
		block.begins && { text: "Begin the checklist", gained: false, main: true },
		block.gained && {
			text: say("Add new steps||Add {n} new step||Add {n} new steps", { n: block.gained.length }),
			gained: true,
			main: false,
		},
		block.again && { text: "Begin again", gained: false, main: false },
	].filter((a) => a !== undefined && a !== false);
	return (
		<section className="card checklist" aria-label={block.title || "Checklist"}>
			<div className="checklist-head">
				{block.title && <h3>{block.title}</h3>}
				{block.items.length > 0 && (
					<span className="text-soft">
						{done} of {block.items.length} done
					</span>
				)}
			</div>
			{block.items.length > 0 && (
				<progress className="checklist-bar" value={done} max={block.items.length} aria-label="How far it is" />
			)}
			{block.hidden ? (
				<p className="empty">You can’t see what is done.</p>
			) : block.items.length === 0 ? (
				<p className="empty">{block.begins ? "Begin the checklist to see its steps here." : "No checklist yet."}</p>
			) : (
				<Items
					items={block.items}
					is={is}
					tick={block.ticks ? (item) => tick.mutate({ item, done: !is(item) }) : undefined}
				/>
			)}
			{failed && (
				<p role="alert" className="note note-bad">
					{wordsOf(failed)}
				</p>
			)}
			{acts.length > 0 && (
				<div className="form-acts">
					{acts.map((a) => (
						<button
							key={a.text}
							type="button"
							className={a.main ? "button button-main" : "button"}
							title={a.gained ? block.gained?.join(", ") : undefined}
							disabled={begin.isPending}
							onClick={() => begin.mutate(a.gained)}
						>
							{a.text}
						</button>
					))}
				</div>
			)}
			{block.earlier?.map((r) => (
				<details key={r.round} className="checklist-earlier">
					<summary>
						List {r.round}: {r.items.filter((i) => i.done).length} of {r.items.length} done
					</summary>
					<Items items={r.items} is={(i) => i.done} />
				</details>
			))}
		</section>
	);
}

interface ItemsProps {
	items: Item[];
	is: (item: Item) => boolean;
	/** None where nothing is ticked. */
	tick?: (item: Item) => void;
}

function Items({ items, is, tick }: ItemsProps) {
	return (
		<ul className="checklist-items">
			{items.map((item) => (
				<li key={item.id} data-done={is(item) || undefined}>
					<label>
						<input type="checkbox" checked={is(item)} disabled={!tick} onChange={() => tick?.(item)} />
						<span className="checklist-text">{item.text}</span>
					</label>
					{note(item) && <span className={item.late ? "checklist-late" : "text-soft text-sm"}>{note(item)}</span>}
				</li>
			))}
		</ul>
	);
}

/** When and by whom something was done, or when it is due. */
function note(item: Item): string {
	if (item.done)
		return [item.by, item.at && (item.at.includes("T") ? timeText(item.at) : dateText(item.at))]
			.filter(Boolean)
			.join(", ");
	if (!item.due) return "";
	return `${item.late ? "Was due" : "Due"} ${dateText(item.due)}`;
}
