import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { Upload } from "lucide-react";
import { useId, useState } from "react";
import { Problem, request, wordsOf } from "../../shared/api/client";
import { say } from "../../shared/words";
import { type AppOut, appUrl, type ImportStatus, type Proposal, type Tally, useRefresh } from "../api";
import { Modal } from "../ui";
import { Outcome } from "./Outcome";
import { Questions } from "./Questions";
import { SheetPlan } from "./SheetPlan";

interface BringProps {
	app: AppOut;
	onClose: () => void;
}

/** Brings files: they are read, what they hold is proposed and can be changed, and then it is done. */
export function BringFiles({ app, onClose }: BringProps) {
	const [uploads, setUploads] = useState<string[]>([]);
	const [proposal, setProposal] = useState<Proposal | null>(null);
	const [running, setRunning] = useState("");
	const propose = (ids: string[], turned: number[]) =>
		request<Proposal>("POST", appUrl(app.id, "/imports/propose"), { uploads: ids, turned });
	const read = useMutation({
		mutationFn: async (files: File[]) => {
			const ids: string[] = [];
			for (const f of files) ids.push(await send(app.id, f));
			setUploads(ids);
			return propose(ids, []);
		},
		onSuccess: setProposal,
	});
	const turn = useMutation({
		mutationFn: (at: number) =>
			propose(uploads, proposal?.sheets.flatMap((s, i) => (Boolean(s.turned) !== (i === at) ? [i] : [])) ?? []),
		onSuccess: setProposal,
	});
	const tally = useQuery({
		queryKey: ["tally", app.id, uploads, counted(proposal)],
		enabled: Boolean(proposal) && !running,
		placeholderData: keepPreviousData,
		queryFn: ({ signal }) => request<Tally>("POST", appUrl(app.id, "/imports/tally"), { uploads, proposal }, signal),
		gcTime: 0,
		retry: false,
	});
	const counting = tally.isFetching;
	const taken = proposal?.sheets.filter((s) => s.mode !== "ignore").reduce((n, s) => n + s.rows, 0) ?? 0;
	const start = useMutation({
		mutationFn: () =>
			request<{ id: string }>("POST", appUrl(app.id, "/imports"), {
				uploads,
				proposal: { ...proposal, tally: counting ? undefined : tally.data },
			}),
		onSuccess: (r) => setRunning(r.id),
	});
	return (
		<Modal title="Import files" open wide={proposal && !running ? "most" : true} onClose={onClose}>
			{running ? (
				<Progress app={app.id} id={running} onClose={onClose} />
			) : proposal ? (
				<form
					className="grid gap-4"
					onSubmit={(e) => {
						e.preventDefault();
						start.mutate();
					}}
				>
					<p className="text-soft">This is what we found in the files. Nothing changes until you import.</p>
					<div className="grid gap-4 max-h-[58vh] overflow-auto pr-1">
						<Questions proposal={proposal} onChange={setProposal} />
						<Outcome app={app} proposal={proposal} tally={tally.data} counting={counting} />
						{(tally.isError || turn.isError) && (
							<p role="alert" className="note-bad">
								{wordsOf(turn.error ?? tally.error)}
							</p>
						)}
						{proposal.sheets.map((s, i) => (
							<SheetPlan
								key={`${s.file} ${s.sheet}`}
								app={app}
								proposal={proposal}
								at={i}
								tally={tally.data?.sheets[i]}
								onTurn={turn.isPending ? undefined : () => turn.mutate(i)}
								onChange={(next) =>
									setProposal({ ...proposal, sheets: proposal.sheets.map((x, j) => (j === i ? next : x)) })
								}
							/>
						))}
					</div>
					{start.isError && (
						<p role="alert" className="note-bad">
							{wordsOf(start.error)}
						</p>
					)}
					<div className="flex justify-end gap-2">
						<button type="button" className="btn" onClick={() => setProposal(null)}>
							Other files
						</button>
						<button
							type="submit"
							className="btn btn-main"
							disabled={start.isPending || proposal.sheets.every((s) => s.mode === "ignore")}
						>
							{say("Import {n} row||Import {n} rows", { n: taken })}
						</button>
					</div>
				</form>
			) : (
				<Choose
					busy={read.isPending}
					problem={read.isError ? wordsOf(read.error) : ""}
					onFiles={(files) => files.length && read.mutate(files)}
				/>
			)}
		</Modal>
	);
}

/** What is counted anew when it changes: all of a proposal but what its tables are called. */
const counted = (p: Proposal | null) => p?.sheets.map((s) => ({ ...s, name: "" }));

async function send(app: string, file: File): Promise<string> {
	const answer = await fetch(`${appUrl(app, "/uploads")}?name=${encodeURIComponent(file.name)}`, {
		method: "POST",
		body: file,
		headers: { "Content-Type": "application/octet-stream" },
	});
	const body = (await answer.json()) as { id: string; title?: string; detail?: string };
	if (!answer.ok) throw new Problem(answer.status, body.detail ?? "The file did not arrive. Try again.");
	return body.id;
}

interface ChooseProps {
	busy: boolean;
	problem: string;
	onFiles: (files: File[]) => void;
}

function Choose({ busy, problem, onFiles }: ChooseProps) {
	const id = useId();
	const [over, setOver] = useState(false);
	return (
		<div className="grid gap-3">
			<label
				htmlFor={id}
				className={`grid justify-items-center gap-2 border-2 border-dashed rounded-md p-10 cursor-pointer text-center ${over ? "border-(--pine) bg-raised" : "border-line"}`}
				onDragOver={(e) => {
					e.preventDefault();
					setOver(true);
				}}
				onDragLeave={() => setOver(false)}
				onDrop={(e) => {
					e.preventDefault();
					setOver(false);
					onFiles([...e.dataTransfer.files]);
				}}
			>
				<Upload size={22} aria-hidden />
				<span className="font-medium">{busy ? "Reading …" : "Drop files here, or choose files"}</span>
				<span className="text-soft">
					CSV, TSV, XLSX, JSON or a JSON object on each line, several at once. Pine Gate finds the links between them,
					and to your tables, from the values in the columns.
				</span>
				<input
					id={id}
					type="file"
					multiple
					className="sr-only"
					accept=".csv,.tsv,.txt,.xlsx,.xlsm,.json,.jsonl,.ndjson"
					disabled={busy}
					onChange={(e) => onFiles([...(e.target.files ?? [])])}
				/>
			</label>
			{problem && (
				<p role="alert" className="note-bad">
					{problem} Nothing was changed.
				</p>
			)}
		</div>
	);
}

const over = (s?: ImportStatus) => s?.status === "done" || s?.status === "failed" || s?.status === "cancelled";

function Progress({ app, id, onClose }: { app: string; id: string; onClose: () => void }) {
	const refresh = useRefresh(app);
	const url = appUrl(app, `/imports/${id}`);
	const status = useQuery({
		queryKey: ["import", id],
		queryFn: async () => {
			const s = await request<ImportStatus>("GET", url);
			if (over(s)) await refresh();
			return s;
		},
		refetchInterval: (q) => (over(q.state.data) ? false : 400),
	});
	const stop = useMutation({
		mutationFn: () => request<void>("DELETE", url),
		onSettled: () => status.refetch(),
	});
	const s = status.data;
	return (
		<div className="grid gap-3">
			<progress className="bar" max={Math.max(1, s?.total ?? 1)} value={over(s) ? s?.total : (s?.done ?? 0)} />
			<p role="status" className={s?.status === "failed" ? "note-bad" : ""}>
				{s?.message || `${s?.done ?? 0} of ${s?.total ?? "…"} rows`}
			</p>
			{s && s.aside > 0 && s.status === "done" && (
				<p className="note-care">
					{say("{n} row didn’t fit. Fix it under “Rows to fix”.||{n} rows didn’t fit. Fix them under “Rows to fix”.", {
						n: s.aside,
					})}
				</p>
			)}
			{(status.isError || stop.isError) && (
				<p role="alert" className="note-bad">
					{wordsOf(status.error ?? stop.error)}
				</p>
			)}
			<div className="flex justify-end gap-2">
				{!over(s) && (
					<button type="button" className="btn" disabled={stop.isPending} onClick={() => stop.mutate()}>
						Stop
					</button>
				)}
				<button type="button" className="btn btn-main" onClick={onClose}>
					{over(s) ? "Close" : "Continue in the background"}
				</button>
			</div>
		</div>
	);
}
