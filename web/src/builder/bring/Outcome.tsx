import { dateText } from "../../shared/fields/values";
import { say } from "../../shared/words";
import type { AppOut, Proposal, SheetTally, Tally } from "../api";
import { targetOf } from "./types";

interface OutcomeProps {
	app: AppOut;
	proposal: Proposal;
	tally: Tally | undefined;
	counting: boolean;
}

/** What the import will do, counted: records and rows to fix of each sheet, and its links. */
export function Outcome({ app, proposal, tally, counting }: OutcomeProps) {
	if (!tally) return <p className="text-soft">{counting ? "Counting what will be imported …" : ""}</p>;
	const lines = proposal.sheets.flatMap((s, i) => {
		const t = tally.sheets[i];
		return s.mode === "ignore" || !t ? [] : [{ s, t, key: `${s.file} ${s.sheet}` }];
	});
	return (
		<section aria-label="What will be imported" className={counting ? "opacity-60" : ""} aria-busy={counting}>
			<ul className="grid gap-1">
				{lines.map(({ s, t, key }) => (
					<li key={key} className="flex flex-wrap gap-x-3">
						<span>
							<b>{s.mode === "new" ? s.name : app.tables.find((x) => x.id === s.table)?.name}</b>{" "}
							{say("{n} record||{n} records", { n: t.records })}
						</span>
						{t.links.map((l) => {
							const c = s.columns.find((x) => x.header === l.column);
							return (
								<span key={l.column} className="text-soft">
									{c?.name} → {c && targetOf(c, proposal, app)}: {say("{n} link||{n} links", { n: l.made })}
									{l.empty > 0 && `, ${say("{n} stays empty||{n} stay empty", { n: l.empty })}`}
									{l.added === 0 && named(l.names)}
									{l.added > 0 && (
										<b className="text-(--resin)">
											{`, ${say("{n} record is added there||{n} records are added there", { n: l.added })}`}
											{named(l.names)}
										</b>
									)}
								</span>
							);
						})}
						{t.aside > 0 && (
							<span className="text-(--resin)">
								{say("{n} row to fix later||{n} rows to fix later", { n: t.aside })}
							</span>
						)}
					</li>
				))}
			</ul>
		</section>
	);
}

const named = (names: string[] | undefined) => (names?.length ? ` (${names.join(", ")})` : "");

/** Some rows as they will be, over what stands in the file where that is written otherwise. */
export function Sample({
	tally,
	columns,
}: {
	tally: SheetTally;
	columns: { name: string; type: string; skip?: boolean }[];
}) {
	const rows = tally.rows ?? [];
	if (rows.length === 0) return null;
	const shown = columns.map((c, i) => ({ ...c, i })).filter((c) => !c.skip);
	return (
		<div className="overflow-auto">
			<table className="text-xs w-full">
				<thead>
					<tr>
						<th scope="col" className="text-left px-2 py-1 text-soft">
							Row
						</th>
						{shown.map((c) => (
							<th key={c.i} scope="col" className="text-left px-2 py-1 whitespace-nowrap">
								{c.name}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{rows.map((r) => (
						<tr key={r.row} className="border-t border-line align-top">
							<td className="px-2 py-1 text-soft">{r.row}</td>
							{r.wrong ? (
								<td colSpan={shown.length} className="px-2 py-1 text-(--resin)">
									{`To fix: ${r.wrong}`}
								</td>
							) : (
								shown.map((c) => {
									const is = written(r.values?.[c.i] ?? "", c.type);
									const was = (r.cells[c.i] ?? "").trim();
									return (
										<td key={c.i} className="px-2 py-1">
											{is || <span className="text-soft">empty</span>}
											{was !== is && was !== "" && <span className="block text-soft">{was}</span>}
										</td>
									);
								})
							)}
						</tr>
					))}
				</tbody>
			</table>
		</div>
	);
}

function written(value: string, type: string): string {
	if (type === "date" && value) return dateText(value);
	if (type === "time stamp" && value) return `${dateText(value.slice(0, 10))} ${value.slice(11, 16)}`;
	if (type === "percentage" && value) return `${Number((Number(value) * 100).toPrecision(12))} %`;
	return value;
}
