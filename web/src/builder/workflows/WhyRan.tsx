import { useState } from "react";
import { type AppOut, type CouldList, useOfApp } from "../api";
import { Pick } from "../people/AboutRecord";
import { ErrorNote, Loading, moment } from "../ui";
import { RecordPick } from "./Rehearse";

/** Why workflows ran for a record, or did not. */
export function WhyRan({ app }: { app: AppOut }) {
	const tables = app.tables.filter((t) => app.workflows.some((w) => w.record === t.id));
	const [table, setTable] = useState(tables[0]?.id ?? "");
	const [record, setRecord] = useState<{ id: string; label: string } | null>(null);
	const [place, setPlace] = useState<"draft" | "live">("draft");
	const could = useOfApp<CouldList>(app.id, "/could-run", { place, table, record: record?.id }, record !== null);
	return (
		<div className="p-4 grid gap-4 content-start max-w-3xl">
			<div>
				<h2 className="font-display text-lg font-semibold">Why did it run, or not?</h2>
				<p className="text-soft">
					Choose a record. You see each workflow that it could set off, and the values that decide.
				</p>
			</div>
			<div className="flex flex-wrap gap-3 items-start">
				<Pick
					label="In table"
					value={table}
					onChange={(v) => {
						setTable(v);
						setRecord(null);
					}}
					options={tables.map((t) => [t.id, t.name])}
				/>
				{app.member === "owner" && app.liveVersion > 0 && (
					<Pick
						label="Where"
						value={place}
						onChange={(v) => {
							setPlace(v as "draft");
							setRecord(null);
						}}
						options={[
							["draft", "in the draft"],
							["live", "in the live app"],
						]}
					/>
				)}
				<RecordPick
					key={table + place}
					app={app}
					table={table}
					live={place === "live"}
					label="Record"
					value={record}
					onChange={setRecord}
				/>
			</div>
			{could.isError && <ErrorNote error={could.error} />}
			{record && could.isPending && <Loading />}
			{could.data?.workflows.map((w) => (
				<section key={w.workflow} className="border border-line rounded-md bg-surface p-3 grid gap-1">
					<h3 className="font-semibold">{w.name}</h3>
					<p className="text-soft">{w.sentence}</p>
					<Verdict of={w} />
					{w.looked.map((l) => (
						<p key={l.name}>
							{l.name} is {l.shown || "empty"}.
						</p>
					))}
					{w.ran.length === 0 ? (
						<p className="text-soft">It has not run for this record in the last 30 days.</p>
					) : (
						w.ran.map((r) => (
							<p key={r.id} className="text-soft">
								It ran at {moment(r.at)}, set off by {r.by}: {r.error || r.status}.
							</p>
						))
					)}
				</section>
			))}
		</div>
	);
}

function Verdict({ of: w }: { of: CouldList["workflows"][number] }) {
	if (w.off) return <p className="text-resin font-medium">It does not start: it is switched off.</p>;
	if (!w.starts) return <p className="text-resin font-medium">It does not start now: its condition is not true.</p>;
	if (w.due) return <p>The clock starts it at {moment(w.due)}, if its condition is true then.</p>;
	return <p>{w.looked.length > 0 ? "Its condition is true now." : "It has no condition."}</p>;
}
