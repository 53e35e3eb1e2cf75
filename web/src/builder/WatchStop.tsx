import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { say } from "../shared/words";
import { type AppOut, useOfApp, type WatchOut } from "./api";
import { ErrorNote, Loading } from "./ui";
import { Letters } from "./workflows/Letters";
import { type AppPlace, PlacePick } from "./workflows/PlacePick";
import { Runs } from "./workflows/Runs";

/** How many runs failed in the last days, in the live app once there is one. */
export function useFailed(app: AppOut): number {
	const watch = useOfApp<WatchOut>(app.id, "/watch", { place: placeOf(app) });
	return watch.data?.failed ?? 0;
}

const placeOf = (app: AppOut): AppPlace => (app.liveVersion > 0 && app.member !== "viewer" ? "live" : "draft");

const emails = "emails";

/** What the app did by itself: runs of workflows, and emails. */
export function WatchStop({ app }: { app: AppOut }) {
	const [place, setPlace] = useState(() => placeOf(app));
	const [open, setOpen] = useState("");
	const client = useQueryClient();
	const watch = useOfApp<WatchOut>(app.id, "/watch", { place });
	const reads = app.member === "owner";
	return (
		<div className="flex-1 min-h-0 grid grid-cols-[minmax(20rem,27rem)_1fr]">
			<div className="overflow-auto border-r border-line p-4 grid gap-4 content-start" id="script">
				<div className="flex flex-wrap items-center gap-2">
					<h2 className="font-display text-lg font-semibold w-full">The last seven days</h2>
					<PlacePick
						place={place}
						onPlace={setPlace}
						onAgain={() => void client.invalidateQueries({ queryKey: ["app", app.id] })}
					/>
				</div>
				{watch.isError && <ErrorNote error={watch.error} />}
				{watch.isPending && <Loading />}
				{watch.data && (
					<>
						<ul className="border border-line rounded-md bg-surface divide-y divide-line overflow-hidden">
							<Line name="All workflows" counts={sum(watch.data)} open={open === ""} onOpen={() => setOpen("")} />
							{watch.data.flows?.map((f) => (
								<Line key={f.id} name={f.name} counts={f} open={open === f.id} onOpen={() => setOpen(f.id)} />
							))}
						</ul>
						{reads && (
							<ul className="border border-line rounded-md bg-surface overflow-hidden">
								<Mails letters={watch.data.letters ?? {}} open={open === emails} onOpen={() => setOpen(emails)} />
							</ul>
						)}
					</>
				)}
			</div>
			<div className="min-w-0 overflow-auto" id="stage">
				{open === emails ? (
					<Letters key={place} app={app} at={place} />
				) : (
					<Runs key={`${place} ${open}`} app={app} flow={open} at={place} />
				)}
			</div>
		</div>
	);
}

type Counts = Pick<NonNullable<WatchOut["flows"]>[number], "done" | "failed" | "stopped" | "waiting">;

function sum(w: WatchOut): Counts {
	const all: Counts = { done: 0, failed: 0, stopped: 0, waiting: 0 };
	for (const f of w.flows ?? []) for (const k of ["done", "failed", "stopped", "waiting"] as const) all[k] += f[k];
	return all;
}

interface LineProps {
	name: string;
	counts: Counts;
	open: boolean;
	onOpen: () => void;
}

/** A workflow with how its runs ended; opened, they are listed. */
function Line({ name, counts: c, open, onOpen }: LineProps) {
	const told = [
		c.done > 0 && say("{n} done", { n: c.done }),
		c.waiting > 0 && say("{n} waiting", { n: c.waiting }),
		c.stopped > 0 && say("{n} stopped by a step", { n: c.stopped }),
	].filter(Boolean);
	return (
		<Row name={name} open={open} onOpen={onOpen}>
			{c.failed > 0 && <span className="text-berry font-medium">{say("{n} failed", { n: c.failed })}</span>}
			{c.failed > 0 && told.length > 0 && ", "}
			{told.join(", ") || (c.failed === 0 && "no runs")}
		</Row>
	);
}

function Mails({ letters, open, onOpen }: { letters: Record<string, number>; open: boolean; onOpen: () => void }) {
	const told = [
		letters.sent && say("{n} sent", { n: letters.sent }),
		letters.caught && say("{n} kept here", { n: letters.caught }),
		letters.waiting && say("{n} waiting to go out", { n: letters.waiting }),
		letters.unwanted && say("{n} unsubscribed", { n: letters.unwanted }),
	].filter(Boolean);
	return (
		<Row name="Emails of workflows" open={open} onOpen={onOpen}>
			{letters.refused ? (
				<span className="text-berry font-medium">{say("{n} not sent", { n: letters.refused })}</span>
			) : null}
			{letters.refused && told.length > 0 ? ", " : ""}
			{told.join(", ") || (!letters.refused && "no emails")}
		</Row>
	);
}

interface RowProps {
	name: string;
	open: boolean;
	onOpen: () => void;
	children: React.ReactNode;
}

function Row({ name, open, onOpen, children }: RowProps) {
	return (
		<li>
			<button
				type="button"
				className={`w-full text-left px-3 py-2 border-l-[3px] ${open ? "border-pine bg-ground" : "border-transparent"}`}
				aria-pressed={open}
				onClick={onOpen}
			>
				<span className="font-medium block">{name}</span>
				<span className="text-soft">{children}</span>
			</button>
		</li>
	);
}
