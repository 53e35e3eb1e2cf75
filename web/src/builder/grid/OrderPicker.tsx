import { X } from "lucide-react";
import type { FieldOut, ViewSettings } from "../api";
import { sortsOf, sortText } from "./view";

interface OrderProps {
	fields: FieldOut[];
	settings: ViewSettings;
	onChange: (s: ViewSettings) => void;
}

/** By what records are grouped and sorted. */
export function OrderPicker({ fields, settings, onChange }: OrderProps) {
	const single = fields.filter((f) => !f.many);
	const sorts = sortsOf(settings.sort);
	const options = single.flatMap((f) => [
		{ id: f.id, name: f.name },
		...(f.sortColumns ?? []).map((c) => ({ id: `${f.id}.${c.id}`, name: `${c.label} in ${f.name}` })),
	]);
	const set = (next: typeof sorts) => onChange({ ...settings, sort: sortText(next) });
	const free = options.filter((o) => !sorts.some((s) => s.field === o.id));
	return (
		<div className="grid gap-3">
			<label className="grid gap-1">
				<span className="font-display font-semibold text-base">Group by</span>
				<select
					className="input"
					value={settings.group}
					onChange={(e) => onChange({ ...settings, group: e.target.value })}
				>
					<option value="">nothing</option>
					{single.map((f) => (
						<option key={f.id} value={f.id}>
							{f.name}
						</option>
					))}
				</select>
			</label>
			<p className="font-display font-semibold text-base">Sort by</p>
			{sorts.length === 0 && <p className="text-soft">In the order added.</p>}
			<ol className="grid gap-1">
				{sorts.map((s, i) => (
					<li key={s.field} className="flex items-center gap-2">
						<span className="flex-1 truncate">{options.find((o) => o.id === s.field)?.name ?? s.field}</span>
						<select
							className="input !w-auto"
							aria-label="Direction"
							value={s.falling ? "falling" : "rising"}
							onChange={(e) =>
								set(sorts.map((x, j) => (j === i ? { ...x, falling: e.target.value === "falling" } : x)))
							}
						>
							<option value="rising">smallest first</option>
							<option value="falling">largest first</option>
						</select>
						<button
							type="button"
							className="p-1"
							aria-label={`Stop sorting by ${options.find((o) => o.id === s.field)?.name ?? "this"}`}
							onClick={() => set(sorts.filter((_, j) => j !== i))}
						>
							<X size={14} />
						</button>
					</li>
				))}
			</ol>
			<label className="grid gap-1">
				<span>{sorts.length === 0 ? "Sort by" : "Then by"}</span>
				<select
					className="input"
					value=""
					onChange={(e) => e.target.value && set([...sorts, { field: e.target.value, falling: false }])}
				>
					<option value="">Choose a field</option>
					{free.map((o) => (
						<option key={o.id} value={o.id}>
							{o.name}
						</option>
					))}
				</select>
			</label>
		</div>
	);
}
