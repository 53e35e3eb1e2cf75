import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useId, useState } from "react";
import { request, wordsOf } from "../../shared/api/client";
import type { components } from "../../shared/api/runtime.gen";
import { timeText } from "../../shared/fields/values";
import { type BlockOf, base } from "../place";
import type { BlockProps } from ".";
import "./timer.css";

type Shown = BlockOf<"timer">;
type Entry = Shown["open"][number];
type Timed = Omit<components["schemas"]["Timed"], "path" | "record">;

/** What is worked on a record: started and stopped by whoever works, for one kind of work at a time. */
export default function Timer({ block, where }: BlockProps<"timer">) {
	const client = useQueryClient();
	const act = useMutation({
		mutationFn: (what: Timed) =>
			request<void>("POST", `${base}/-/timers/${block.id}`, {
				path: where.path,
				record: where.record || undefined,
				...what,
			}),
		onSettled: () => client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "form" }),
	});
	const now = useNow(block);
	const runs = block.open.find((e) => e.since);
	const forgotten = block.open.find((e) => e.forgotten);
	const kinds = block.kinds?.length ? block.kinds : [{ id: "", label: "Work" }];
	const hours = (e: Entry) => Number(e.hours) + (e.since ? Math.max(0, now - Date.parse(e.since)) / 3_600_000 : 0);
	/** The seconds since which it runs, over all that is known to be worked. */
	const counted = (kind?: string) => {
		const total = kind === undefined ? block.whole : block.totals.find((t) => (t.kind ?? "") === kind)?.hours;
		const running = block.open.filter((e) => kind === undefined || (e.kind ?? "") === kind);
		return Number(total ?? 0) + running.reduce((sum, e) => sum + hours(e) - Number(e.hours), 0);
	};
	if (block.hidden) return <p className="empty">You can’t see these hours.</p>;
	return (
		<section className="card timer" aria-label={block.title || "Timer"}>
			<div className="timer-head">
				{block.title && <h3>{block.title}</h3>}
				<span className="timer-whole">
					<span className="text-soft">In all</span> <output aria-label="In all">{spelled(counted())}</output>
				</span>
			</div>
			{block.elsewhere && (
				<p className="note">Your timer runs on {block.elsewhere}. It pauses there when you start it here.</p>
			)}
			{forgotten && (
				<Forgotten
					entry={forgotten}
					busy={act.isPending}
					end={(at) => act.mutate({ do: "end", entry: forgotten.id, at })}
				/>
			)}
			<ul className="timer-kinds">
				{kinds.map((k) => {
					const entry = block.open.find((e) => (e.kind ?? "") === k.id);
					const is = Boolean(entry?.since);
					return (
						<li key={k.id} data-runs={is || undefined}>
							<span className="timer-kind">{k.label}</span>
							<output className="timer-hours" aria-label={k.label}>
								{spelled(block.kinds?.length ? counted(k.id) : counted())}
							</output>
							{block.starts && (
								<button
									type="button"
									className={is ? "button" : "button button-main"}
									aria-label={`${is ? "Pause" : entry ? "Go on with" : "Start"} ${k.label}`}
									disabled={act.isPending}
									onClick={() => act.mutate(is ? { do: "pause" } : { do: "start", kind: k.id || undefined })}
								>
									{is ? "Pause" : entry ? "Go on" : "Start"}
								</button>
							)}
						</li>
					);
				})}
				{block.kinds?.length && Number(block.totals.find((t) => !t.kind)?.hours ?? 0) > 0 ? (
					<li>
						<span className="timer-kind text-soft">Other hours</span>
						<output className="timer-hours" aria-label="Other hours">
							{spelled(counted(""))}
						</output>
					</li>
				) : null}
			</ul>
			{block.open.length > 0 && (
				<div className="form-acts">
					<button type="button" className="button" disabled={act.isPending} onClick={() => act.mutate({ do: "stop" })}>
						Stop
					</button>
					<span className="text-soft text-sm">
						{runs?.since ? `Running since ${timeText(runs.since)}` : "Paused. Stop it when you are done"}
					</span>
				</div>
			)}
			{act.error && (
				<p role="alert" className="note note-bad">
					{wordsOf(act.error)}
				</p>
			)}
		</section>
	);
}

/** What time it is by the clock of the server, each second while something runs. */
function useNow(block: Shown): number {
	const [shift, setShift] = useState(() => Date.parse(block.now) - Date.now());
	const [now, setNow] = useState(() => Date.parse(block.now));
	useEffect(() => {
		setShift(Date.parse(block.now) - Date.now());
		setNow(Date.parse(block.now));
	}, [block.now]);
	const runs = block.open.some((e) => e.since);
	useEffect(() => {
		if (!runs) return;
		const tick = setInterval(() => setNow(Date.now() + shift), 1000);
		return () => clearInterval(tick);
	}, [runs, shift]);
	return now;
}

/** Hours as people say them: 1:05:09. */
export function spelled(hours: number): string {
	const seconds = Math.round(hours * 3600);
	const two = (n: number) => String(n).padStart(2, "0");
	return `${Math.floor(seconds / 3600)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
}

/** Asks about a timer that runs for long. */
function Forgotten({ entry, busy, end }: { entry: Entry; busy: boolean; end: (at: string) => void }) {
	const id = useId();
	const [at, setAt] = useState("");
	return (
		<div className="note timer-forgotten">
			<p>It has been running since {timeText(entry.since ?? "")}. Did you forget to stop it?</p>
			<label htmlFor={id}>You stopped at</label>
			<input id={id} type="datetime-local" className="field-input" value={at} onChange={(e) => setAt(e.target.value)} />
			<button
				type="button"
				className="button"
				disabled={busy || !at}
				onClick={() => end(new Date(at).toISOString().replace(/\.\d+/, ""))}
			>
				End it then
			</button>
		</div>
	);
}
