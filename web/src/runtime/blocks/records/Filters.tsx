import { ChevronDown, X } from "lucide-react";
import { type ReactNode, useId, useRef, useState } from "react";
import { dateText, type RecordOption } from "../../../shared/fields/values";
import { useAsks } from "../../asks";
import { useAway } from "../../away";
import { getOptions, type Records, type Where } from "../../place";

type Filter = Records["filters"][number];

interface FilterProps {
	filter: Filter;
	set: (value: string) => void;
	search?: (words: string) => Promise<RecordOption[]>;
}

/** The filters that the founder offers. They combine, and stand in the address. */
export function Filters({ list, where }: { list: Pick<Records, "id" | "filters">; where: Where }) {
	const asks = useAsks(list.id);
	return (
		<>
			{list.filters.map((f) => (
				<One
					key={f.column.id}
					filter={f}
					set={(value) => asks.set({ [`is.${f.column.id}`]: value })}
					search={f.more ? async (words) => (await getOptions(list.id, f.column.id, where, words)).options : undefined}
				/>
			))}
			{list.filters.some((f) => f.value) && (
				<button type="button" className="text-link inline-flex items-center gap-1" onClick={asks.clear}>
					<X size={14} aria-hidden /> Show all
				</button>
			)}
		</>
	);
}

function One(p: FilterProps) {
	switch (p.filter.column.kind) {
		case "yes/no":
			return <YesNo {...p} />;
		case "choice":
			return <Many {...p} options={(p.filter.column.choices ?? []).map((c) => ({ id: c.id, label: c.label }))} />;
		case "record":
			return <Many {...p} options={p.filter.options ?? []} />;
		default:
			return <Range {...p} />;
	}
}

function YesNo({ filter, set }: FilterProps) {
	return (
		<label className="filter-label">
			<span className="text-soft">{filter.column.name}</span>
			<select className="field-input" value={filter.value} onChange={(e) => set(e.target.value)}>
				<option value="">All</option>
				<option value="yes">Yes</option>
				<option value="no">No</option>
			</select>
		</label>
	);
}

/** A button that unfolds what can be chosen; Escape, and a press elsewhere, fold it again. */
function Unfolding({ name, said, children }: { name: string; said: string; children: ReactNode }) {
	const [open, setOpen] = useState(false);
	const box = useRef<HTMLDivElement>(null);
	const button = useRef<HTMLButtonElement>(null);
	const id = useId();
	useAway(open, box, (byEscape) => {
		setOpen(false);
		if (byEscape) button.current?.focus();
	});
	return (
		<div ref={box} className="filter">
			<button
				ref={button}
				type="button"
				className={`filter-button ${said ? "filter-on" : ""}`}
				aria-expanded={open}
				aria-controls={id}
				onClick={() => setOpen(!open)}
			>
				{name}
				{said && <span className="filter-said">{said}</span>}
				<ChevronDown size={15} aria-hidden />
			</button>
			{open && (
				<fieldset id={id} className="filter-box">
					<legend className="sr-only">{name}</legend>
					{children}
				</fieldset>
			)}
		</div>
	);
}

/** Some of several choices or records, or those without any. */
function Many({ filter, set, search, options }: FilterProps & { options: RecordOption[] }) {
	const chosen = filter.value ? filter.value.split(",") : [];
	const [found, setFound] = useState<RecordOption[] | null>(null);
	const all = [...(found ?? options), { id: "-", label: `No ${filter.column.name.toLowerCase()}` }];
	const label = (id: string) => all.find((o) => o.id === id)?.label ?? "1 more";
	const said = chosen.length > 2 ? `${chosen.length} chosen` : chosen.map(label).join(", ");
	const toggle = (id: string) =>
		set((chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]).join(","));
	return (
		<Unfolding name={filter.column.name} said={said}>
			{search && (
				<input
					type="search"
					className="field-input"
					aria-label={`Search ${filter.column.name}`}
					placeholder="Search"
					onChange={async (e) => setFound(e.target.value ? await search(e.target.value) : null)}
				/>
			)}
			{all.map((o) => (
				<label key={o.id} className="filter-option">
					<input type="checkbox" checked={chosen.includes(o.id)} onChange={() => toggle(o.id)} />{" "}
					{o.label || "(no name)"}
				</label>
			))}
		</Unfolding>
	);
}

/** From and to, for dates and numbers. It is asked for when somebody leaves the field. */
function Range({ filter, set }: FilterProps) {
	const { column, value } = filter;
	const [from = "", to = ""] = value.split("..");
	const dates = column.kind !== "number";
	const shown = (v: string) => (dates && v ? dateText(v) : v);
	const said =
		from && to ? `${shown(from)} – ${shown(to)}` : from ? `from ${shown(from)}` : to ? `to ${shown(to)}` : "";
	const ask = (f: string, t: string) => set(f || t ? `${f}..${t}` : "");
	const input = (name: string, now: string, change: (v: string) => void) => (
		<label className="filter-option">
			<span className="w-12">{name}</span>
			<input
				key={now}
				type={dates ? "date" : "text"}
				inputMode={dates ? undefined : "decimal"}
				className="field-input"
				defaultValue={now}
				onBlur={(e) => e.target.value !== now && change(e.target.value.replace(",", "."))}
				onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
			/>
		</label>
	);
	return (
		<Unfolding name={column.name} said={said}>
			{input("From", from, (v) => ask(v, to))}
			{input("To", to, (v) => ask(from, v))}
		</Unfolding>
	);
}
