import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ExternalLink, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { request, wordsOf } from "../shared/api/client";
import { say } from "../shared/words";
import { type AppOut, appUrl, type Difference, type Plan, useOfApp, type VersionOut } from "./api";
import { Empty, ErrorNote, Loading, Modal, moment } from "./ui";

/** What differs from live on the left; what publishing does to the live records on the right. */
export function PublishStop({ app }: { app: AppOut }) {
	const plan = useOfApp<Plan>(app.id, "/plan");
	const versions = useOfApp<VersionOut[]>(app.id, "/versions");
	const [back, setBack] = useState(0);
	if (plan.isError) return <ErrorNote error={plan.error} retry={() => void plan.refetch()} />;
	if (!plan.data) return <Loading />;
	const fresh = plan.data.first || (plan.data.differences?.length ?? 0) > 0;
	return (
		<div className="flex-1 min-h-0 grid grid-cols-[1.15fr_1fr]">
			<div className="overflow-auto border-r border-line p-5" id="script">
				<h2 className="font-display text-lg font-semibold mb-3">
					{plan.data.first ? "What will go live" : "What changes in the live app"}
				</h2>
				{plan.data.first ? (
					<p className="text-soft">
						Nothing is live yet. Publishing makes the whole draft live:{" "}
						{say("{n} table||{n} tables", { n: app.tables.length })},{" "}
						{say("{n} role||{n} roles", { n: app.roles.length })} and{" "}
						{say("{n} page||{n} pages", { n: app.pages.length })}.
					</p>
				) : (
					<Differences list={plan.data.differences ?? []} />
				)}
			</div>
			<div className="overflow-auto p-5 grid gap-6 content-start" id="stage">
				<section>
					<h2 className="font-display text-lg font-semibold mb-3">
						{plan.data.first ? "Publish for the first time" : "What happens to the live records"}
					</h2>
					{fresh ? (
						<PublishForm app={app} plan={plan.data} label="Publish" />
					) : (
						<p className="text-soft">The draft and the live app are the same. There is nothing to publish.</p>
					)}
				</section>
				<section>
					<h2 className="font-display text-lg font-semibold mb-2">Versions</h2>
					{app.liveVersion > 0 && (
						<p className="mb-3">
							<a
								className="link inline-flex items-center gap-1"
								href={`/a/${app.slug}`}
								target="_blank"
								rel="noreferrer"
							>
								Open the live app at /a/{app.slug} <ExternalLink size={14} aria-hidden />
							</a>
						</p>
					)}
					<Versions list={versions.data ?? []} onBack={app.member === "viewer" ? undefined : setBack} />
				</section>
			</div>
			{back > 0 && <GoBack app={app} version={back} onClose={() => setBack(0)} />}
		</div>
	);
}

function Differences({ list }: { list: Difference[] }) {
	if (list.length === 0)
		return (
			<Empty title="No changes">
				<p>What you change in the draft is listed here until you publish it.</p>
			</Empty>
		);
	return (
		<ul className="grid gap-2">
			{list.map((d) => (
				<li
					key={`${d.where} ${d.before} ${d.after}`}
					className="bg-surface border border-line rounded-md p-3 grid gap-1"
				>
					<span className="text-soft">
						{d.where}: {!d.before ? "new" : !d.after ? "removed" : "changed"}
					</span>
					{d.lines ? (
						<Whole lines={d.lines} gone={!d.after} />
					) : (
						<>
							{d.before && <del className="text-berry decoration-1">{d.before}</del>}
							{d.after && <ins className="no-underline">{d.after}</ins>}
						</>
					)}
				</li>
			))}
		</ul>
	);
}

/** What a table, a role or a page says that is new or removed as a whole. */
function Whole({ lines, gone }: { lines: string[]; gone: boolean }) {
	const Mark = gone ? "del" : "ins";
	return (
		<ul className="grid gap-0.5">
			{lines.map((l, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: two sentences can be the same
				<li key={i}>
					<Mark className={gone ? "text-berry decoration-1" : "no-underline"}>{l}</Mark>
				</li>
			))}
		</ul>
	);
}

interface PublishFormProps {
	app: AppOut;
	plan: Plan;
	label: string;
	version?: number;
	onDone?: () => void;
}

/** How a step is marked that is to be thought about. */
function noteOf(s: NonNullable<Plan["steps"]>[number]): string {
	if (s.stop) return "note-bad flex gap-2";
	return s.loss || s.opens || s.care ? "note-care flex gap-2" : "";
}

function PublishForm({ app, plan, label, version, onDone }: PublishFormProps) {
	const [accept, setAccept] = useState(false);
	const [bring, setBring] = useState(true);
	const client = useQueryClient();
	const loses = plan.steps?.some((s) => s.loss) ?? false;
	const stops = plan.steps?.some((s) => s.stop) ?? false;
	const publish = useMutation({
		mutationFn: () =>
			request<{ version: number }>("POST", appUrl(app.id, "/publish"), {
				revision: plan.revision,
				liveVersion: plan.liveVersion,
				version,
				accept,
				bringRecords: plan.first && bring,
			}),
		onSuccess: async (r) => {
			onDone?.();
			await client.invalidateQueries();
			toast.success(`Version ${r.version} is live.`);
		},
		onError: () => client.invalidateQueries({ queryKey: ["app", app.id] }),
	});
	return (
		<div className="grid gap-4 justify-items-start">
			<ul className="grid gap-1.5">
				{!plan.first && plan.steps?.every((s) => s.opens || s.care) && (
					<li>No live records change: only pages, words or rules do.</li>
				)}
				{(plan.first ? plan.steps?.filter((s) => s.stop || s.opens || s.care) : plan.steps)?.map((s) => (
					<li key={s.text} className={noteOf(s)}>
						{noteOf(s) && <TriangleAlert size={16} className="shrink-0 mt-0.5" aria-hidden />}
						<span>
							{s.text}
							{s.samples?.length ? say(" For example: {values}.", { values: s.samples.map((v) => `“${v}”`) }) : ""}
						</span>
					</li>
				))}
			</ul>
			{plan.first && (
				<label className="flex items-center gap-2">
					<input
						type="checkbox"
						className="size-4 accent-(--pine)"
						checked={bring}
						onChange={(e) => setBring(e.target.checked)}
					/>
					{say("Copy the draft’s {n} record to the live app||Copy the draft’s {n} records to the live app", {
						n: plan.draft,
					})}
				</label>
			)}
			{loses && (
				<label className="flex items-center gap-2 font-medium">
					<input
						type="checkbox"
						className="size-4 accent-(--pine)"
						checked={accept}
						onChange={(e) => setAccept(e.target.checked)}
					/>
					I understand that these values will be hidden
				</label>
			)}
			{stops && <p className="text-soft">Fix this before you publish.</p>}
			{publish.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(publish.error)}
				</p>
			)}
			{app.member === "viewer" ? (
				<p className="text-soft">Only editors and owners can publish.</p>
			) : (
				<button
					type="button"
					className="btn btn-main"
					disabled={publish.isPending || stops || (loses && !accept)}
					onClick={() => publish.mutate()}
				>
					{publish.isPending ? "Publishing …" : label}
				</button>
			)}
		</div>
	);
}

function Versions({ list, onBack }: { list: VersionOut[]; onBack?: (version: number) => void }) {
	if (list.length === 0) return <p className="text-soft">Nothing is published yet.</p>;
	return (
		<ol className="grid gap-1">
			{list.map((v) => (
				<li key={v.number} className="flex items-center gap-3 border-b border-line py-2 min-h-12">
					<span className="font-semibold w-20">Version {v.number}</span>
					<span className="text-soft flex-1">
						{moment(v.at)} by {v.by},{" "}
						{v.number === 1 ? "the first" : say("{n} change||{n} changes", { n: v.differences?.length ?? 0 })}
					</span>
					{v.live ? (
						<span className="text-pine font-semibold">live</span>
					) : (
						onBack && (
							<button type="button" className="btn" onClick={() => onBack(v.number)}>
								Go back to version {v.number}
							</button>
						)
					)}
				</li>
			))}
		</ol>
	);
}

function GoBack({ app, version, onClose }: { app: AppOut; version: number; onClose: () => void }) {
	const plan = useOfApp<Plan>(app.id, "/plan", { version });
	return (
		<Modal title={`Go back to version ${version}`} open onClose={onClose} wide>
			<p className="text-soft mb-3">
				This publishes a new version with everything as it was in version {version}. The draft stays as it is.
			</p>
			{plan.isError && <ErrorNote error={plan.error} />}
			{plan.data ? (
				<div className="grid gap-4">
					<Differences list={plan.data.differences ?? []} />
					<PublishForm
						app={app}
						plan={plan.data}
						version={version}
						label={`Go back to version ${version}`}
						onDone={onClose}
					/>
				</div>
			) : (
				<Loading />
			)}
		</Modal>
	);
}
