import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { ChevronLeft, Play, RotateCcw, Square } from "lucide-react";
import { useState } from "react";
import { request, withQuery } from "../../shared/api/client";
import { type AppOut, appUrl, type Rehearsal, type RunList, type RunOut, type RunWhole, useOfApp } from "../api";
import { Empty, ErrorNote, Loading, moment } from "../ui";
import { type AppPlace, PlacePick } from "./PlacePick";
import { Rehearsed } from "./Rehearse";
import { Walk } from "./Walk";

const statuses = {
	done: ["Done", "text-pine"],
	stopped: ["Stopped by a step", "text-resin"],
	failed: ["Failed", "text-berry font-medium"],
	waiting: ["Waiting", "text-pine font-medium"],
} as const;

/** Runs of an app’s workflows, live or in the draft, and what the steps of one did. */
export function Runs({ app, flow, at }: { app: AppOut; flow: string; at?: AppPlace }) {
	const [picked, setPlace] = useState<AppPlace>(app.liveVersion > 0 && app.member !== "viewer" ? "live" : "draft");
	const place = at ?? picked;
	const [only, setOnly] = useState(true);
	const [open, setOpen] = useState("");
	const workflow = only ? flow : "";
	const runs = useInfiniteQuery({
		queryKey: ["app", app.id, "runs", place, workflow],
		refetchInterval: at ? 10_000 : false, // as runs of the live app are no news of the draft
		queryFn: ({ pageParam }) =>
			request<RunList>(
				"GET",
				withQuery(appUrl(app.id, "/runs"), { place, workflow: workflow || undefined, before: pageParam || undefined }),
			),
		initialPageParam: "",
		getNextPageParam: (last) => (last.more ? last.runs.at(-1)?.id : undefined),
	});
	if (open) return <OneRun key={open} app={app} id={open} onBack={() => setOpen("")} onOpen={setOpen} />;
	const all = runs.data?.pages.flatMap((p) => p.runs) ?? [];
	return (
		<div className="p-4 grid gap-3 content-start">
			<div className="flex flex-wrap items-center gap-2">
				<h2 className="font-display text-lg font-semibold mr-auto">Runs</h2>
				{flow && !at && (
					<label className="flex items-center gap-1.5">
						<input type="checkbox" checked={only} onChange={(e) => setOnly(e.target.checked)} /> only this workflow
					</label>
				)}
				{!at && <PlacePick place={place} onPlace={setPlace} onAgain={() => void runs.refetch()} />}
			</div>
			{runs.isError && <ErrorNote error={runs.error} />}
			{runs.isPending && <Loading />}
			{runs.data && all.length === 0 && (
				<Empty title="No runs yet">
					<p>Each time a workflow runs, what its steps did is written down here for 30 days.</p>
				</Empty>
			)}
			{all.length > 0 && (
				<ul className="border border-line rounded-md bg-surface divide-y divide-line">
					{all.map((r) => (
						<li key={r.id}>
							<button
								type="button"
								className="w-full text-left px-3 py-2 flex gap-4 items-baseline"
								onClick={() => setOpen(r.id)}
							>
								<span className="flex-1 min-w-0">
									<span className="font-medium">{r.name}</span>
									{r.error && <span className="block text-soft truncate">{r.error}</span>}
								</span>
								<span className={statuses[r.status][1]}>{statuses[r.status][0]}</span>
								<span className="text-soft whitespace-nowrap">
									{r.by}, {moment(r.at)}
								</span>
							</button>
						</li>
					))}
				</ul>
			)}
			{runs.hasNextPage && (
				<button type="button" className="btn justify-self-start" onClick={() => void runs.fetchNextPage()}>
					Show older runs
				</button>
			)}
		</div>
	);
}

interface OneRunProps {
	app: AppOut;
	id: string;
	onBack: () => void;
	onOpen: (run: string) => void;
}

function OneRun({ app, id, onBack, onOpen }: OneRunProps) {
	const run = useOfApp<RunWhole>(app.id, `/runs/${id}`);
	const client = useQueryClient();
	const again = useMutation({
		mutationFn: () => request<{ run: string }>("POST", appUrl(app.id, `/runs/${id}/again`)),
		onSuccess: async (got) => {
			await client.invalidateQueries({ queryKey: ["app", app.id, "runs"] });
			onOpen(got.run);
		},
	});
	const end = useMutation({
		mutationFn: () => request<RunOut>("POST", appUrl(app.id, `/runs/${id}/ending`)),
		onSuccess: () => Promise.all([run.refetch(), client.invalidateQueries({ queryKey: ["app", app.id, "runs"] })]),
	});
	const rehearse = useMutation({
		mutationFn: () => request<Rehearsal>("POST", appUrl(app.id, `/runs/${id}/rehearsals`)),
	});
	return (
		<div className="p-4 grid gap-3 content-start">
			<button
				type="button"
				className="link-button justify-self-start flex items-center gap-1"
				onClick={rehearse.data ? rehearse.reset : onBack}
			>
				<ChevronLeft size={14} aria-hidden /> {rehearse.data ? "The run" : "All runs"}
			</button>
			{run.isError && <ErrorNote error={run.error} />}
			{run.isPending && <Loading />}
			{run.data && (
				<div className="flex flex-wrap items-start gap-2">
					<div className="flex-1">
						<h2 className="font-display text-lg font-semibold">
							{rehearse.data ? `Rehearsed again: ${run.data.name}` : run.data.name}
						</h2>
						<p className="text-soft">
							<span className={statuses[run.data.status][1]}>{statuses[run.data.status][0]}</span>, set off by{" "}
							{run.data.by} at {moment(run.data.at)}
							{run.data.status === "done" && `, ${run.data.millis} ms`}
						</p>
					</div>
					{app.member !== "viewer" && (
						<button type="button" className="btn" disabled={rehearse.isPending} onClick={() => rehearse.mutate()}>
							<Play size={14} aria-hidden /> Rehearse it
						</button>
					)}
					{app.member !== "viewer" && run.data.status === "waiting" && !rehearse.data && (
						<button type="button" className="btn" disabled={end.isPending} onClick={() => end.mutate()}>
							<Square size={14} aria-hidden /> End it
						</button>
					)}
					{app.member !== "viewer" && ["failed", "stopped"].includes(run.data.status) && !rehearse.data && (
						<button type="button" className="btn btn-main" disabled={again.isPending} onClick={() => again.mutate()}>
							<RotateCcw size={14} aria-hidden /> Try again
						</button>
					)}
				</div>
			)}
			{end.isError && <ErrorNote error={end.error} />}
			{again.isError && <ErrorNote error={again.error} />}
			{rehearse.isError && <ErrorNote error={rehearse.error} />}
			{rehearse.data ? (
				<Rehearsed key={rehearse.submittedAt} app={app.id} of={rehearse.data} watches={[]} />
			) : (
				run.data && <Walk steps={run.data.steps} app={app.id} flow={run.data.workflow} error={run.data.error} />
			)}
		</div>
	);
}
