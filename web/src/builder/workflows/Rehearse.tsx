import { useMutation } from "@tanstack/react-query";
import { Play, TriangleAlert, X } from "lucide-react";
import { useId, useState } from "react";
import { request } from "../../shared/api/client";
import { type AppOut, appUrl, type OptionList, type Rehearsal, useOfApp, type WorkflowOut } from "../api";
import { ErrorNote } from "../ui";
import { Compare } from "./Compare";
import { Incoming } from "./Incoming";
import { useMarks } from "./kept";
import { Walk } from "./Walk";
import { KeepAsWant, Wants } from "./Wants";

/** Rehearses a workflow: it is run with real records, and taken back. */
export function Rehearse({ app, flow, as }: { app: AppOut; flow: WorkflowOut; as: string }) {
	const [record, setRecord] = useState<{ id: string; label: string } | null>(null);
	const [answers, setAnswers] = useState<Answers>({});
	const [picked, setPicked] = useState<{ [question: string]: { id: string; label: string } | null }>({});
	const [{ watches }, mark] = useMarks(app.id, flow.id);
	const setWatches = (to: string[]) => mark({ watches: to });
	const [real, setReal] = useState(false);
	const [body, setBody] = useState(flow.incoming?.sample ?? "");
	const asked = { as, record: record?.id, answers, incoming: flow.incoming ? body : undefined };
	const [last, setLast] = useState<Rehearsal>();
	const [before, setBefore] = useState<Rehearsal>();
	const [comparing, setComparing] = useState(false);
	const run = useMutation({
		onSuccess: ({ of }) => {
			setBefore(last);
			setLast(of);
		},
		mutationFn: async () => ({
			of: await request<Rehearsal>("POST", appUrl(app.id, `/workflows/${flow.id}/rehearsals`), {
				...asked,
				real,
				watches,
			}),
			asked,
		}),
	});
	const about = app.tables.find((t) => t.id === flow.record);
	return (
		<div className="p-4 grid gap-4 content-start">
			<div>
				<h2 className="font-display text-lg font-semibold">Rehearse “{flow.name}”</h2>
				<p className="text-soft max-w-2xl">
					It is run for real in the draft and taken back at once: nothing is changed, no email goes out, and waits are
					passed.
				</p>
			</div>
			{flow.circle && (
				<p className="note-care flex gap-2 max-w-2xl">
					<TriangleAlert size={16} className="shrink-0 mt-0.5" aria-hidden />
					{flow.circle}
				</p>
			)}
			{flow.incoming && <Incoming app={app} flow={flow} body={body} onBody={setBody} />}
			<div className="flex flex-wrap items-end gap-3">
				{about && (
					<RecordPick
						app={app}
						table={about.id}
						label={`Set off by ${about.word}`}
						value={record}
						onChange={setRecord}
					/>
				)}
				{flow.asks.map((a) =>
					a.target ? (
						<RecordPick
							key={a.id}
							app={app}
							table={a.target}
							label={a.name}
							value={picked[a.id] ?? null}
							onChange={(r) => {
								setPicked({ ...picked, [a.id]: r });
								setAnswers({ ...answers, [a.id]: r?.id ?? null });
							}}
						/>
					) : (
						<AskInput
							key={a.id}
							ask={a}
							value={answers[a.id]}
							onChange={(v) => setAnswers({ ...answers, [a.id]: v })}
						/>
					),
				)}
				<button
					type="button"
					className="btn btn-main"
					disabled={run.isPending || (about !== undefined && !record) || (flow.incoming !== undefined && !body.trim())}
					onClick={() => run.mutate()}
				>
					<Play size={14} aria-hidden /> {run.isPending ? "Rehearsing …" : run.data ? "Rehearse again" : "Rehearse"}
				</button>
			</div>
			<Watches list={watches} onChange={setWatches} />
			{flow.calls && (
				<label className="flex items-center gap-1.5 justify-self-start">
					<input type="checkbox" checked={real} onChange={(e) => setReal(e.target.checked)} /> really call services;
					otherwise the samples of their answers stand for them
				</label>
			)}
			{run.isError && <ErrorNote error={run.error} />}
			{run.data && before && (
				<label className="flex items-center gap-1.5 justify-self-start">
					<input type="checkbox" checked={comparing} onChange={(e) => setComparing(e.target.checked)} /> compare it with
					the one before
				</label>
			)}
			{run.data && before && comparing && <Compare before={before} now={run.data.of} />}
			{run.data && <Rehearsed key={run.submittedAt} app={app.id} of={run.data.of} watches={watches} />}
			{run.data && app.member !== "viewer" && (
				<KeepAsWant key={`keep ${run.submittedAt}`} app={app} of={run.data.of} asked={run.data.asked} />
			)}
			<Wants app={app} flow={flow.id} />
		</div>
	);
}

type Answers = { [question: string]: string | boolean | null | undefined };

interface AskProps {
	ask: WorkflowOut["asks"][number];
	value: string | boolean | null | undefined;
	onChange: (to: string | boolean | null | undefined) => void;
}

/** An answer to what a workflow asks before it runs. */
function AskInput({ ask, value, onChange }: AskProps) {
	const id = useId();
	const none = ask.was ? undefined : null;
	const yesNo = ask.type === "yes/no";
	const chosen = (v: string) => (yesNo && (v || !ask.was) ? v === "yes" : v || none);
	const no = yesNo && ask.was ? [{ value: "no", label: "no" }] : []; // otherwise it is what nothing chosen means
	const options = yesNo ? [{ value: "yes", label: "yes" }, ...no] : ask.options;
	return (
		<div className="grid gap-1">
			<label className="font-medium" htmlFor={id}>
				{ask.name}
			</label>
			{options.length > 0 ? (
				<select
					id={id}
					className="input"
					value={value === true ? "yes" : value === false && ask.was ? "no" : (value || "").toString()}
					onChange={(e) => onChange(chosen(e.target.value))}
				>
					<option value="">{ask.was ? "as it is now" : yesNo ? "no" : ""}</option>
					{options.map((o) => (
						<option key={o.value} value={o.value}>
							{o.label}
						</option>
					))}
				</select>
			) : (
				<input
					id={id}
					className="input"
					type={ask.type === "date" ? "date" : "text"}
					inputMode={ask.type === "number" ? "decimal" : undefined}
					placeholder={ask.was ? "as it is now" : undefined}
					value={(value ?? "").toString()}
					onChange={(e) => onChange(e.target.value || none)}
				/>
			)}
		</div>
	);
}

/** Expressions whose values are shown at each step of the next rehearsal. */
function Watches({ list, onChange }: { list: string[]; onChange: (to: string[]) => void }) {
	const [text, setText] = useState("");
	return (
		<form
			className="flex flex-wrap items-center gap-2"
			onSubmit={(e) => {
				e.preventDefault();
				const source = text.trim();
				if (source && !list.includes(source)) onChange([...list, source]);
				setText("");
			}}
		>
			<label className="flex items-center gap-2">
				<span className="font-medium">Watch</span>
				<input
					className="input font-mono text-sm w-72"
					placeholder="an expression, such as made.new_invoice.total"
					value={text}
					onChange={(e) => setText(e.target.value)}
				/>
			</label>
			<button type="submit" className="btn" disabled={!text.trim()}>
				Add
			</button>
			{list.map((w) => (
				<span key={w} className="inline-flex items-center gap-1 font-mono text-sm border border-line rounded-md pl-2">
					{w}
					<button
						type="button"
						className="p-1"
						aria-label={`Stop watching ${w}`}
						onClick={() => onChange(list.filter((x) => x !== w))}
					>
						<X size={12} aria-hidden />
					</button>
				</span>
			))}
		</form>
	);
}

interface RehearsedProps {
	app: string;
	of: Rehearsal;
	watches: string[];
	followed?: boolean;
}

/** What came of a rehearsal, and of the workflows that it would set off. */
export function Rehearsed({ app, of, watches, followed }: RehearsedProps) {
	return (
		<section className="grid gap-3">
			{followed && <h3 className="font-display font-semibold">It sets off “{of.name}”</h3>}
			{!of.starts ? (
				<div className="note">
					<p>{of.refused || "It would not start: its condition is not true."}</p>
					{of.looked.map((l) => (
						<p key={l.name} className="text-soft">
							{l.name} is {l.shown || "empty"}
						</p>
					))}
				</div>
			) : (
				<>
					<Outcome of={of} />
					<Walk steps={of.steps} app={app} flow={of.workflow} error={of.error} watches={followed ? [] : watches} />
				</>
			)}
			{of.followed.map((f, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: they have no other order
				<Rehearsed key={i} app={app} of={f} watches={[]} followed />
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
	label: string;
	/** It is one of the live app. */
	live?: boolean;
	value: { id: string; label: string } | null;
	onChange: (to: { id: string; label: string } | null) => void;
}

/** Chooses a record. */
export function RecordPick({ app, table, label, live, value, onChange }: PickProps) {
	const [search, setSearch] = useState("");
	const id = useId();
	const options = useOfApp<OptionList>(app.id, `/tables/${table}/options`, {
		as: "founder",
		search,
		live: live ? "true" : undefined,
	});
	return (
		<div className="grid gap-1 w-80">
			<label className="font-medium" htmlFor={id}>
				{label}
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
						id={id}
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
