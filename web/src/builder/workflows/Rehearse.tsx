import { useMutation } from "@tanstack/react-query";
import { Play } from "lucide-react";
import { useState } from "react";
import { request } from "../../shared/api/client";
import { type AppOut, appUrl, type OptionList, type Rehearsal, useOfApp, type WorkflowOut } from "../api";
import { ErrorNote } from "../ui";
import { Walk } from "./Walk";

/** Rehearses a workflow: it is run with real records, and taken back. */
export function Rehearse({ app, flow, as }: { app: AppOut; flow: WorkflowOut; as: string }) {
	const [record, setRecord] = useState<{ id: string; label: string } | null>(null);
	const [answers, setAnswers] = useState<Answers>({});
	const run = useMutation({
		mutationFn: () =>
			request<Rehearsal>("POST", appUrl(app.id, `/workflows/${flow.id}/rehearsals`), {
				as,
				record: record?.id,
				answers,
			}),
	});
	const about = app.tables.find((t) => t.id === flow.record);
	return (
		<div className="p-4 grid gap-4 content-start">
			<div>
				<h2 className="font-display text-lg font-semibold">Rehearse “{flow.name}”</h2>
				<p className="text-soft max-w-2xl">
					It is run for real in the draft and taken back at once: nothing is changed, and no email goes out.
				</p>
			</div>
			<div className="flex flex-wrap items-end gap-3">
				{about && <RecordPick app={app} table={about.id} word={about.word} value={record} onChange={setRecord} />}
				{flow.asks.map((a) => (
					<AskInput key={a.id} ask={a} value={answers[a.id]} onChange={(v) => setAnswers({ ...answers, [a.id]: v })} />
				))}
				<button
					type="button"
					className="btn btn-main"
					disabled={run.isPending || (about !== undefined && !record)}
					onClick={() => run.mutate()}
				>
					<Play size={14} aria-hidden /> {run.isPending ? "Rehearsing …" : run.data ? "Rehearse again" : "Rehearse"}
				</button>
			</div>
			{run.isError && <ErrorNote error={run.error} />}
			{run.data && <Rehearsed key={run.submittedAt} of={run.data} />}
		</div>
	);
}

type Answers = { [question: string]: string | boolean | null };

interface AskProps {
	ask: WorkflowOut["asks"][number];
	value: string | boolean | null | undefined;
	onChange: (to: string | boolean | null) => void;
}

/** An answer to what a workflow asks before it runs. */
function AskInput({ ask, value, onChange }: AskProps) {
	if (ask.type === "link") return null;
	const options = ask.type === "yes/no" ? [{ value: "yes", label: "yes" }] : ask.options;
	return (
		<label className="grid gap-1">
			<span className="font-medium">{ask.name}</span>
			{options.length > 0 ? (
				<select
					className="input"
					value={value === true ? "yes" : (value ?? "").toString()}
					onChange={(e) => onChange(ask.type === "yes/no" ? e.target.value === "yes" : e.target.value || null)}
				>
					<option value="">{ask.type === "yes/no" ? "no" : ""}</option>
					{options.map((o) => (
						<option key={o.value} value={o.value}>
							{o.label}
						</option>
					))}
				</select>
			) : (
				<input
					className="input"
					type={ask.type === "date" ? "date" : "text"}
					inputMode={ask.type === "number" ? "decimal" : undefined}
					value={(value ?? "").toString()}
					onChange={(e) => onChange(e.target.value || null)}
				/>
			)}
		</label>
	);
}

/** What came of a rehearsal, and of the workflows that it would set off. */
function Rehearsed({ of, followed }: { of: Rehearsal; followed?: boolean }) {
	return (
		<section className="grid gap-3">
			{followed && <h3 className="font-display font-semibold">It sets off “{of.name}”</h3>}
			{!of.starts ? (
				<div className="note">
					<p>It would not start: its condition is not true.</p>
					{of.looked.map((l) => (
						<p key={l.name} className="text-soft">
							{l.name} is {l.shown || "empty"}
						</p>
					))}
				</div>
			) : (
				<>
					<Outcome of={of} />
					<Walk steps={of.steps} error={of.error} />
				</>
			)}
			{of.followed.map((f, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: they have no other order
				<Rehearsed key={i} of={f} followed />
			))}
		</section>
	);
}

function Outcome({ of }: { of: Rehearsal }) {
	if (of.status !== "done")
		return (
			<p className="note-bad" role="status">
				{of.status === "stopped" ? "A step stopped it" : "It failed"}, so nothing would be changed. {of.error}
			</p>
		);
	return (
		<p className="note-good" role="status">
			It comes to its end. {of.shows.message && <>They read: “{of.shows.message}”</>}
		</p>
	);
}

interface PickProps {
	app: AppOut;
	table: string;
	word: string;
	value: { id: string; label: string } | null;
	onChange: (to: { id: string; label: string } | null) => void;
}

/** Chooses the record that sets a workflow off. */
function RecordPick({ app, table, word, value, onChange }: PickProps) {
	const [search, setSearch] = useState("");
	const options = useOfApp<OptionList>(app.id, `/tables/${table}/options`, { as: "founder", search });
	return (
		<div className="grid gap-1 w-80">
			<label className="font-medium" htmlFor="rehearse-record">
				Set off by {word}
			</label>
			{value ? (
				<span className="flex items-center gap-2">
					<span className="input flex-1 truncate">{value.label}</span>
					<button type="button" className="btn" onClick={() => onChange(null)}>
						Change
					</button>
				</span>
			) : (
				<>
					<input
						id="rehearse-record"
						className="input"
						placeholder="Search"
						value={search}
						onChange={(e) => setSearch(e.target.value)}
					/>
					<div className="field-options !max-h-36" data-records>
						{options.data?.options.map((o) => (
							<button key={o.id} type="button" onClick={() => onChange(o)}>
								{o.label}
							</button>
						))}
					</div>
				</>
			)}
		</div>
	);
}
