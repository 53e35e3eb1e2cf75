import { say } from "../../shared/words";
import type { AppOut, ColumnPlan, SheetPlan as Plan, Proposal } from "../api";

interface SheetProps {
	app: AppOut;
	proposal: Proposal;
	at: number;
	onChange: (p: Plan) => void;
}

const types = [
	["text", "text"],
	["long text", "long text"],
	["number", "a number"],
	["money", "an amount of money"],
	["percentage", "a percentage"],
	["yes/no", "yes or no"],
	["date", "a date"],
	["time stamp", "a date and time"],
	["choice", "a choice"],
	["e-mail", "an email address"],
	["phone", "a phone number"],
	["web address", "a web address"],
] as const;

/** What becomes of one sheet, as a sentence, with its columns line by line. */
export function SheetPlan({ app, proposal, at, onChange }: SheetProps) {
	const plan = proposal.sheets[at];
	if (!plan) return null;
	const put = (j: number, c: ColumnPlan) =>
		onChange({ ...plan, columns: plan.columns.map((x, k) => (k === j ? c : x)) });
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
				<p className="text-soft">{plan.notes.join(" ")}</p>
			</div>
			{plan.mode !== "ignore" && (
				<ul>
					{plan.columns.map((c, j) => (
						<ColumnLine key={c.header} column={c} proposal={proposal} app={app} at={at} onChange={(x) => put(j, x)} />
					))}
				</ul>
			)}
		</section>
	);
}

interface LineProps {
	column: ColumnPlan;
	proposal: Proposal;
	app: AppOut;
	at: number;
	onChange: (c: ColumnPlan) => void;
}

function ColumnLine({ column: c, proposal, app, at, onChange }: LineProps) {
	const target = c.link
		? c.link.sheet >= 0
			? proposal.sheets[c.link.sheet]?.name
			: app.tables.find((t) => t.id === c.link?.table)?.name
		: "";
	const value = c.skip ? "skip" : c.link ? "link" : c.field ? "field" : c.type;
	const choose = (v: string) => {
		if (v === "skip") return onChange({ ...c, skip: true });
		if (v === "link" || v === "field") return onChange({ ...c, skip: false });
		return onChange({
			...c,
			skip: false,
			link: undefined,
			field: "",
			type: v,
			choices: v === "choice" ? (c.choices ?? c.samples) : undefined,
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
						{c.link.many ? "links to" : "a link to"} {target}
					</option>
				)}
				{c.field && (
					<option value="field">
						into{" "}
						{app.tables.find((t) => t.id === proposal.sheets[at]?.table)?.fields.find((f) => f.id === c.field)?.name}
					</option>
				)}
				{types.map(([type, words]) => (
					<option key={type} value={type} disabled={type === "choice" && !c.choices}>
						{words}
					</option>
				))}
				<option value="skip">leave out</option>
			</select>
			<div className="text-soft">
				{c.skip ? (
					"Not imported."
				) : c.link ? (
					<>
						{c.reason} {say("{n} value matches||{n} values match", { n: c.link.matched })}
						{c.link.ambiguous > 0 &&
							say(", {n} matches several records (fix it later)||, {n} match several records (fix them later)", {
								n: c.link.ambiguous,
							})}
						{c.link.missing > 0 && (
							<>
								{say(", {n} doesn’t match:||, {n} don’t match:", { n: c.link.missing })}{" "}
								<select
									aria-label={`Values in ${c.header} that don’t match`}
									className="input !w-auto !min-h-7 !py-0"
									value={c.link.unmatched}
									onChange={(e) => c.link && onChange({ ...c, link: { ...c.link, unmatched: e.target.value } })}
								>
									<option value="leave out">leave empty</option>
									<option value="create">add to {target}</option>
								</select>
							</>
						)}
						.
					</>
				) : (
					c.reason
				)}
				{!c.skip && c.ask && <p className="text-(--resin)">{c.ask}</p>}
				{!c.skip && !c.link && c.type === "date" && c.ask && (
					<select
						aria-label={`Dates in ${c.header}`}
						className="input !w-auto mt-1"
						value={c.format.order}
						onChange={(e) => onChange({ ...c, format: { ...c.format, order: e.target.value }, ask: undefined })}
					>
						<option value="day">day first</option>
						<option value="month">month first</option>
					</select>
				)}
			</div>
		</li>
	);
}
