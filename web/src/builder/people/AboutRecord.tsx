import { Check, X } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { type AppOut, type OptionList, useOfApp, type Why } from "../api";
import { ErrorNote, Loading } from "../ui";

export interface WhyProps {
	app: AppOut;
	as: string;
	/** Shows a rule in the script beside; without it, the stop People does. */
	onShow?: (role: string, line: string) => void;
}

const verbs = { see: "see", add: "add", change: "change", delete: "delete" };

/** Asks about any record of a table, or one of its fields. */
export function AboutRecord({ app, as, onShow, of }: WhyProps & { of?: string }) {
	const [table, setTable] = useState(of ?? app.tables[0]?.id ?? "");
	const [record, setRecord] = useState<{ id: string; label: string } | null>(null);
	const [field, setField] = useState("");
	const [action, setAction] = useState<keyof typeof verbs>("see");
	const [search, setSearch] = useState("");
	const options = useOfApp<OptionList>(app.id, `/tables/${table}/options`, { as: "founder", search }, table !== "");
	const why = useOfApp<Why>(app.id, "/why", { as, table, record: record?.id, field, action }, table !== "");
	const fields = app.tables.find((t) => t.id === table)?.fields ?? [];
	if (app.tables.length === 0) return <p className="text-soft">No tables yet.</p>;
	return (
		<>
			<div className="grid grid-cols-3 gap-3">
				<Pick
					label="Can they"
					value={action}
					onChange={(v) => setAction(v as keyof typeof verbs)}
					options={Object.entries(verbs)}
				/>
				<Pick
					label="In table"
					value={table}
					onChange={(v) => {
						setTable(v);
						setRecord(null);
						setField("");
					}}
					options={app.tables.map((t) => [t.id, t.name])}
				/>
				<Pick
					label="Field"
					value={field}
					onChange={setField}
					options={[["", "the whole record"], ...fields.map((f): [string, string] => [f.id, f.name])]}
				/>
			</div>
			<div className="grid gap-1">
				<label className="font-medium" htmlFor="why-record">
					Record
				</label>
				<input
					id="why-record"
					className="input"
					placeholder="Search all records, even those they can’t see"
					value={search}
					onChange={(e) => setSearch(e.target.value)}
				/>
				<div className="field-options !max-h-36" data-records>
					<button type="button" aria-pressed={record === null} onClick={() => setRecord(null)}>
						any record
					</button>
					{options.data?.options.map((o) => (
						<button key={o.id} type="button" aria-pressed={record?.id === o.id} onClick={() => setRecord(o)}>
							{o.label}
						</button>
					))}
				</div>
			</div>
			{why.isError ? (
				<ErrorNote error={why.error} />
			) : !why.data ? (
				<Loading />
			) : (
				<Answer
					why={why.data}
					rule={(role, line) => <RuleLink app={app} as={as} role={role} line={line} onShow={onShow} />}
				/>
			)}
		</>
	);
}

/** A labelled choice. */
export function Pick(p: { label: string; value: string; options: [string, string][]; onChange: (v: string) => void }) {
	return (
		<label className="grid gap-1">
			<span className="font-medium">{p.label}</span>
			<select className="input" value={p.value} onChange={(e) => p.onChange(e.target.value)}>
				{p.options.map(([v, words]) => (
					<option key={v} value={v}>
						{words}
					</option>
				))}
			</select>
		</label>
	);
}

function RuleLink({ app, as, role, line, onShow }: WhyProps & { role: string; line: string }) {
	if (onShow)
		return (
			<button type="button" className="link-button" onClick={() => onShow(role, line)}>
				Show the rule
			</button>
		);
	return (
		<Link className="link" to={`/apps/${app.id}/people?open=${role}${as.startsWith("live.") ? "" : `&as=${as}`}`}>
			Show the role
		</Link>
	);
}

/** The answer to a question, with the rules that decide. */
function Answer({ why, rule }: { why: Why; rule: (role: string, line: string) => ReactNode }) {
	return (
		<section className="bg-surface border border-line rounded-md p-4 grid gap-3" aria-live="polite" data-why>
			<p className="font-display text-base font-semibold flex gap-2 items-center">
				{why.may ? (
					<Check size={18} className="text-pine shrink-0" aria-label="Yes" />
				) : (
					<X size={18} className="text-berry shrink-0" aria-label="No" />
				)}
				{why.text}
			</p>
			<ul className="grid gap-2">
				{why.reasons.map((r) => (
					<li key={r.role + r.text} className="flex gap-2">
						<span className={r.may ? "text-pine" : "text-soft"} aria-hidden>
							{r.may ? "✓" : "–"}
						</span>
						<span>
							{r.text} {r.line && rule(r.role, r.line)}
						</span>
					</li>
				))}
			</ul>
		</section>
	);
}
