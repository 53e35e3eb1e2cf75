import { Plus, X } from "lucide-react";
import type { Group, NameHelp, PlainRow } from "../api";
import { needsValue, relationsFor } from "./plain";

interface ConditionsProps {
	group: Group;
	names: NameHelp[];
	onChange: (g: Group) => void;
	inner?: boolean;
}

/** A condition made of comparisons, for those who do not write expressions. */
export function Conditions({ group, names, onChange, inner }: ConditionsProps) {
	const fields = names.filter((n) => n.kind && n.kind !== "list" && !n.name.startsWith("me") && n.kind !== "file");
	const put = (i: number, row: PlainRow) => onChange({ ...group, rows: group.rows.map((r, j) => (j === i ? row : r)) });
	const first = fields[0];
	const add = () =>
		first &&
		onChange({
			...group,
			rows: [...group.rows, { field: first.name, relation: relationsFor(first.kind ?? "")[0]?.value, value: "" }],
		});
	return (
		<fieldset className={`grid gap-1.5 ${inner ? "border-l-2 border-line pl-2" : ""}`}>
			<legend className="sr-only">Condition</legend>
			{group.rows.length > 1 && (
				<select
					aria-label="How they combine"
					className="input justify-self-start"
					value={group.any ? "any" : "all"}
					onChange={(e) => onChange({ ...group, any: e.target.value === "any" })}
				>
					<option value="all">All of these are true</option>
					<option value="any">At least one of these is true</option>
				</select>
			)}
			{group.rows.map((row, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own
				<div key={i} className="flex gap-1 items-start">
					<div className="flex-1 min-w-0">
						{row.group ? (
							<Conditions group={row.group} names={names} inner onChange={(g) => put(i, { group: g })} />
						) : (
							<Comparison row={row} fields={fields} onChange={(r) => put(i, r)} />
						)}
					</div>
					<button
						type="button"
						className="p-2"
						aria-label="Remove this comparison"
						onClick={() => onChange({ ...group, rows: group.rows.filter((_, j) => j !== i) })}
					>
						<X size={14} />
					</button>
				</div>
			))}
			<div className="flex gap-2">
				<button type="button" className="btn" onClick={add}>
					<Plus size={14} aria-hidden /> Add a comparison
				</button>
				{!inner && first && group.rows.length > 0 && (
					<button
						type="button"
						className="btn"
						onClick={() =>
							onChange({
								...group,
								rows: [
									...group.rows,
									{
										group: {
											any: !group.any,
											rows: [
												{ field: first.name, relation: relationsFor(first.kind ?? "")[0]?.value, value: "" },
												{ field: first.name, relation: relationsFor(first.kind ?? "")[0]?.value, value: "" },
											],
										},
									},
								],
							})
						}
					>
						<Plus size={14} aria-hidden /> Add a group
					</button>
				)}
			</div>
		</fieldset>
	);
}

interface ComparisonProps {
	row: PlainRow;
	fields: NameHelp[];
	onChange: (r: PlainRow) => void;
}

function Comparison({ row, fields, onChange }: ComparisonProps) {
	const field = fields.find((f) => f.name === row.field);
	const relations = relationsFor(field?.kind ?? "");
	return (
		<div className="grid grid-cols-[1fr_auto] gap-1">
			<select
				aria-label="Field"
				className="input"
				value={row.field}
				onChange={(e) => {
					const kind = fields.find((f) => f.name === e.target.value)?.kind ?? "";
					onChange({ field: e.target.value, relation: relationsFor(kind)[0]?.value, value: "" });
				}}
			>
				{fields.map((f) => (
					<option key={f.name} value={f.name}>
						{f.name.includes(".") ? f.help.split(",")[0] && `${f.label} in ${f.name.split(".")[0]}` : f.label || f.name}
					</option>
				))}
			</select>
			<select
				aria-label="Comparison"
				className="input"
				value={row.relation}
				onChange={(e) => onChange({ ...row, relation: e.target.value })}
			>
				{relations.map((r) => (
					<option key={r.value} value={r.value}>
						{r.label}
					</option>
				))}
			</select>
			{needsValue(row.relation ?? "") && (
				<div className="col-span-2">
					{field?.choices ? (
						<select
							aria-label="Value"
							className="input w-full"
							value={row.value}
							onChange={(e) => onChange({ ...row, value: e.target.value })}
						>
							<option value="">Choose</option>
							{field.choices.map((c) => (
								<option key={c} value={c}>
									{c}
								</option>
							))}
						</select>
					) : (
						<input
							aria-label="Value"
							className="input w-full"
							type={field?.kind === "date" || field?.kind === "time stamp" ? "date" : "text"}
							value={row.value ?? ""}
							onChange={(e) => onChange({ ...row, value: e.target.value })}
						/>
					)}
				</div>
			)}
		</div>
	);
}
