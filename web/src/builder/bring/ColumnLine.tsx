import { say } from "../../shared/words";
import type { AppOut, ColumnPlan, Proposal } from "../api";
import { targetOf, types } from "./types";

interface LineProps {
	column: ColumnPlan;
	proposal: Proposal;
	app: AppOut;
	at: number;
	onChange: (c: ColumnPlan) => void;
}

/** What a column becomes, and why. */
export function ColumnLine({ column: c, proposal, app, at, onChange }: LineProps) {
	const value = c.skip ? "skip" : c.link ? "link" : c.field ? "field" : c.type;
	const choose = (v: string) => {
		if (v === "skip") return onChange({ ...c, skip: true });
		if (v === "link" || v === "field") return onChange({ ...c, skip: false });
		const to = targets(proposal, app, at, c).find((t) => t.value === v);
		if (to) return onChange({ ...c, skip: false, field: "", type: "link", ask: undefined, link: to.link });
		onChange({
			...c,
			skip: false,
			link: undefined,
			ask: c.ask?.about === "link" ? undefined : c.ask,
			field: "",
			type: v,
			choices: v === "choice" || v === "several choices" ? (c.choices ?? c.samples) : undefined,
		});
	};
	return (
		<li className="grid grid-cols-[10rem_13rem_1fr] gap-x-3 gap-y-1 items-start px-3 py-2 border-b border-line last:border-0">
			<div className="min-w-0">
				<p className="font-medium truncate" title={c.header}>
					{c.name}
				</p>
				<p className="text-soft text-xs truncate" title={c.samples.join(" · ")}>
					{c.samples.join(" · ")}
				</p>
			</div>
			<select
				aria-label={`What ${c.header} becomes`}
				className="input"
				value={value}
				onChange={(e) => choose(e.target.value)}
			>
				{c.link && (
					<option value="link">
						{c.link.many ? "links to" : "a link to"} {targetOf(c, proposal, app)}
					</option>
				)}
				{c.field && <option value="field">into {fieldName(c, proposal, app, at)}</option>}
				{types
					.filter(([type]) => type !== "auto number" || c.format.auto)
					.map(([type, words]) => (
						<option key={type} value={type} disabled={type.includes("choice") && !c.choices}>
							{words}
						</option>
					))}
				<option value="skip">leave out</option>
				<optgroup label="A link to">
					{targets(proposal, app, at, c).map((t) => (
						<option key={t.value} value={t.value}>
							{t.text}
						</option>
					))}
				</optgroup>
			</select>
			<div className="text-soft">
				{c.skip ? (
					"Not imported."
				) : c.link ? (
					<LinkWords c={c} proposal={proposal} app={app} onChange={onChange} />
				) : (
					c.reason
				)}
			</div>
		</li>
	);
}

const fieldName = (c: ColumnPlan, p: Proposal, app: AppOut, at: number) =>
	app.tables.find((t) => t.id === p.sheets[at]?.table)?.fields.find((f) => f.id === c.field)?.name;

/** To what a founder can make a column point: columns of sheets whose values tell rows apart, and tables by their names. */
function targets(p: Proposal, app: AppOut, at: number, column: ColumnPlan) {
	const none = { many: false, matched: 0, missing: 0, ambiguous: 0, unmatched: "leave out" as const };
	return [
		...p.sheets.flatMap((s, i) =>
			s.mode === "ignore"
				? []
				: s.columns
						.filter((c) => c.unique && !c.skip && !(i === at && c.header === column.header))
						.map((c) => ({
							value: `sheet ${i} ${c.header}`,
							text: `${s.name}, by ${c.name}`,
							link: { ...none, sheet: i, by: c.header },
						})),
		),
		...app.tables.map((t) => ({
			value: `table ${t.id}`,
			text: t.name,
			link: { ...none, sheet: -1, table: t.id, by: "" },
		})),
	];
}

function LinkWords({ c, proposal, app, onChange }: Omit<LineProps, "at" | "column"> & { c: ColumnPlan }) {
	const link = c.link;
	if (!link) return null;
	const counted = link.matched + link.missing + link.ambiguous > 0;
	return (
		<>
			{c.reason} {link.sampled && "About "}
			{counted && say("{n} value matches||{n} values match", { n: link.matched })}
			{link.ambiguous > 0 &&
				say(", {n} matches several records (fix it later)||, {n} match several records (fix them later)", {
					n: link.ambiguous,
				})}
			{(link.missing > 0 || !counted) && (
				<>
					{counted ? say(", {n} doesn’t match:||, {n} don’t match:", { n: link.missing }) : "Values that don’t match:"}{" "}
					<select
						aria-label={`Values in ${c.header} that don’t match`}
						className="input !w-auto !min-h-7 !py-0"
						value={link.unmatched}
						onChange={(e) => onChange({ ...c, link: { ...link, unmatched: e.target.value as "create" } })}
					>
						<option value="leave out">leave empty</option>
						<option value="create">add to {targetOf(c, proposal, app)}</option>
					</select>
				</>
			)}
			{counted && "."}
		</>
	);
}
