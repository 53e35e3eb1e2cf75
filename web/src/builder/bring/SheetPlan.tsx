import { useState } from "react";
import { say } from "../../shared/words";
import type { AppOut, ColumnPlan, SheetPlan as Plan, Proposal, SheetTally } from "../api";
import { ColumnLine } from "./ColumnLine";
import { Sample } from "./Outcome";
import { becomes, unsure } from "./types";

interface SheetProps {
	app: AppOut;
	proposal: Proposal;
	at: number;
	tally?: SheetTally;
	onChange: (p: Plan) => void;
	/** Takes the first row for names where it was taken for values, and the other way round; not while that is done. */
	onTurn?: () => void;
}

/** What becomes of one sheet, as a sentence, with its columns line by line: those that are clear are folded. */
export function SheetPlan({ app, proposal, at, tally, onChange, onTurn }: SheetProps) {
	const [all, setAll] = useState(false);
	const [sample, setSample] = useState(false);
	const plan = proposal.sheets[at];
	if (!plan) return null;
	const put = (j: number, c: ColumnPlan) =>
		onChange({ ...plan, columns: plan.columns.map((x, k) => (k === j ? c : x)) });
	const clear = plan.columns.filter((c) => !unsure(c));
	const into = plan.mode === "new" || plan.mode === "ignore" ? plan.mode : `${plan.mode} ${plan.table}`;
	const choose = (value: string) => {
		const [mode = "new", table = ""] = value.split(" ");
		const fields = app.tables.find((t) => t.id === table)?.fields ?? [];
		const columns = plan.columns.map((c) => {
			const f = fields.find((x) => x.name.toLowerCase() === c.name.toLowerCase());
			return { ...c, field: f?.entered ? f.id : "", type: f?.entered ? f.type : c.type };
		});
		onChange({
			...plan,
			mode: mode as Plan["mode"],
			table,
			columns,
			key: mode === "update" ? plan.columns[0]?.header : "",
		});
	};
	return (
		<section className="border border-line rounded-md" aria-label={plan.sheet}>
			<div className="p-3 grid gap-1.5 border-b border-line bg-raised rounded-t-md">
				<p className="flex flex-wrap items-center gap-2">
					<span>
						<b>{plan.sheet}</b> in {plan.file}: {say("{n} row||{n} rows", { n: plan.rows })}
					</span>
					<select
						aria-label={`What to do with ${plan.sheet}`}
						className="input !w-auto"
						value={into}
						onChange={(e) => choose(e.target.value)}
					>
						<option value="new">into a new table</option>
						{app.tables.map((t) => (
							<option key={t.id} value={`append ${t.id}`}>
								add to {t.name}
							</option>
						))}
						{app.tables.map((t) => (
							<option key={t.id} value={`update ${t.id}`}>
								update {t.name} by a key column
							</option>
						))}
						<option value="ignore">leave out</option>
					</select>
					{plan.mode === "new" && (
						<input
							aria-label="Name of the new table"
							className="input !w-44"
							value={plan.name}
							onChange={(e) => onChange({ ...plan, name: e.target.value })}
						/>
					)}
					{plan.mode === "update" && (
						<select
							aria-label="Key column"
							className="input !w-auto"
							value={plan.key}
							onChange={(e) => onChange({ ...plan, key: e.target.value })}
						>
							{plan.columns.map((c) => (
								<option key={c.header} value={c.header}>
									{c.header}
								</option>
							))}
						</select>
					)}
				</p>
				<p className="text-soft flex flex-wrap items-baseline gap-x-3 gap-y-1">
					<span>{plan.notes.join(" ")}</span>
					{plan.names !== "own" && (
						<button type="button" className="btn btn-small" disabled={!onTurn} onClick={onTurn}>
							{plan.names === "first" ? "The first row is data" : "The first row names the columns"}
						</button>
					)}
				</p>
			</div>
			{plan.mode !== "ignore" && (
				<>
					<ul>
						{plan.columns.map((c, j) =>
							all || unsure(c) ? (
								<ColumnLine
									key={c.header}
									column={c}
									proposal={proposal}
									app={app}
									at={at}
									onChange={(x) => put(j, x)}
								/>
							) : null,
						)}
					</ul>
					{!all && clear.length > 0 && (
						<p className="px-3 py-2 text-soft">
							{clear.map((c, i) => (
								<span key={c.header}>
									{i > 0 && " · "}
									<b className="font-medium text-(--ink)">{c.name}</b> {becomes(c, proposal, app)}
								</span>
							))}
						</p>
					)}
					<p className="flex flex-wrap gap-2 px-3 pb-2">
						<button type="button" className="btn btn-small" aria-expanded={all} onClick={() => setAll(!all)}>
							{all ? "Fold what is clear" : "Change columns"}
						</button>
						{tally?.rows && tally.rows.length > 0 && (
							<button type="button" className="btn btn-small" aria-expanded={sample} onClick={() => setSample(!sample)}>
								{sample ? "Hide the sample" : "Show a sample"}
							</button>
						)}
					</p>
					{sample && tally && <Sample tally={tally} columns={plan.columns} />}
				</>
			)}
		</section>
	);
}
