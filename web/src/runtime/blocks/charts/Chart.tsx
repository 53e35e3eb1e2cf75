import { Table2 } from "lucide-react";
import { useRef, useState } from "react";
import { useAsks } from "../../asks";
import type { BlockProps } from "..";
import { Behind } from "./Behind";
import { Choosing } from "./Choosing";
import { Mark, Plot } from "./Plot";
import { pictureOf } from "./png";
import { Ring } from "./Ring";
import { beside, type ChartBlock, csvOf, type Drawn, daysText, drawnOf, groupName, written } from "./told";
import "./charts.css";

/** Numbers in groups, drawn, or as a table. One that stands alone has no records behind it. */
export default function Chart({ block, where, alone }: BlockProps<"chart"> & { alone?: boolean }) {
	const [off, setOff] = useState<string[]>([]);
	const [table, setTable] = useState(false);
	const [problem, setProblem] = useState("");
	const [behind, setBehind] = useState<ChartBlock["groups"][number] | null>(null);
	const box = useRef<HTMLElement>(null);
	const asks = useAsks(block.id);
	const all = drawnOf(block);
	const drawn = all.filter((d) => !off.includes(d.id));
	const empty = block.groups.length === 0 || all.every((d) => d.values.every((v) => v === null || v === 0));
	const name = (block.title || block.by.name).replaceAll(/[^\p{L}\p{N}]+/gu, "-");
	const save = (blob: Blob, ending: string) => {
		const a = document.createElement("a");
		a.href = URL.createObjectURL(blob);
		a.download = `${name}.${ending}`;
		a.click();
		URL.revokeObjectURL(a.href);
	};
	const picture = async () => {
		const svg = box.current?.querySelector<SVGSVGElement>("svg[role=group]");
		try {
			if (svg) save(await pictureOf(svg), "png");
		} catch (e) {
			setProblem(e instanceof Error ? e.message : String(e));
		}
	};
	const open = alone ? undefined : (i: number) => setBehind(block.groups[i] ?? null);
	return (
		<figure ref={box} className="card chart">
			<figcaption className="chart-head">
				<div>
					{block.title && <h3 className="chart-title">{block.title}</h3>}
					{(block.days.from || block.days.to) && <p className="text-soft text-sm">{daysText(block.days)}</p>}
				</div>
				<div className="chart-tools">
					<Choosing id={block.id} days={block.days} />
					{block.bys && block.bys.length > 1 && (
						<By
							label="Grouped by"
							value={block.by.id}
							options={block.bys.map((f) => [f.id, f.name])}
							choose={(by) => {
								setOff([]);
								asks.set({ by, unit: "" });
							}}
						/>
					)}
					{block.unit && block.units && (
						<By
							label="For each"
							value={block.unit}
							options={["day", "week", "month", "quarter", "year"].map((u) => [u, u])}
							choose={(unit) => asks.set({ unit })}
						/>
					)}
					<button type="button" className="chart-tool" aria-pressed={table} onClick={() => setTable(!table)}>
						<Table2 size={15} aria-hidden /> {table ? "Drawing" : "Table"}
					</button>
				</div>
			</figcaption>
			{block.notes?.map((n) => (
				<p key={n} role="status" className="note">
					{n}
				</p>
			))}
			{block.hidden ? (
				<p className="empty">You can’t see what this chart is made of.</p>
			) : empty ? (
				<p className="empty">There is nothing to draw for these days.</p>
			) : table ? (
				<AsTable block={block} drawn={all} />
			) : (
				<>
					{all.length > 1 && <Legend all={all} off={off} set={setOff} />}
					{block.shape === "donut" ? (
						<Ring block={block} drawn={drawn} open={open} />
					) : (
						<Plot block={block} drawn={drawn} open={open} />
					)}
				</>
			)}
			{behind && (
				<Behind
					key={`${behind.key} ${behind.others}`}
					block={block.id}
					where={where}
					group={behind.key}
					others={behind.others}
					title={groupName(block, behind)}
					onClose={() => setBehind(null)}
				/>
			)}
			{block.beforeDays && !empty && (
				<p className="text-soft text-sm">
					<span className="chart-before" aria-hidden="true" /> before: {daysText(block.beforeDays)}
				</p>
			)}
			{!empty && drawn.some((d) => d.goal) && (
				<p className="text-soft text-sm">
					<span className="chart-goal" aria-hidden="true" />
					{drawn
						.filter((d) => d.goal)
						.map((d) => `target of ${d.name}${d.measure.goal?.kind === "most" ? ", at most" : ""}`)
						.join(", ")}
				</p>
			)}
			{problem && (
				<p role="alert" className="note">
					{problem}
				</p>
			)}
			{!empty && !block.hidden && (
				<div className="chart-take">
					<button
						type="button"
						className="text-link"
						onClick={() => save(new Blob([`\ufeff${csvOf(block)}`], { type: "text/csv" }), "csv")}
					>
						Take as CSV
					</button>
					{!table && (
						<button type="button" className="text-link" onClick={picture}>
							Take as PNG
						</button>
					)}
				</div>
			)}
		</figure>
	);
}

/** What makes the groups, where people can choose it. */
function By(props: { label: string; value: string; options: [string, string][]; choose: (value: string) => void }) {
	return (
		<select
			className="field-input chart-select"
			aria-label={props.label}
			value={props.value}
			onChange={(e) => props.choose(e.target.value)}
		>
			{props.options.map(([value, name]) => (
				<option key={value} value={value}>
					by {name}
				</option>
			))}
		</select>
	);
}

/** The names of series; a press takes one away, and brings it back. */
function Legend({ all, off, set }: { all: Drawn[]; off: string[]; set: (off: string[]) => void }) {
	let line = 0;
	return (
		<div className="chart-legend">
			{all.map((d) => {
				const is = !off.includes(d.id);
				const mark = d.line ? line++ : 0;
				return (
					<button
						key={d.id}
						type="button"
						aria-pressed={is}
						onClick={() =>
							set(is ? (off.length < all.length - 1 ? [...off, d.id] : off) : off.filter((x) => x !== d.id))
						}
					>
						<svg width="14" height="14" aria-hidden="true">
							{d.line ? (
								<>
									<path d="M0 7h14" stroke={d.colour} strokeWidth="2" />
									<Mark at={mark} x={7} y={7} colour={d.colour} />
								</>
							) : (
								<rect x="1" y="1" width="12" height="12" rx="2" fill={d.colour} />
							)}
						</svg>
						{d.name}
					</button>
				);
			})}
		</div>
	);
}

/** The same numbers as a table. */
function AsTable({ block, drawn }: { block: ChartBlock; drawn: Drawn[] }) {
	return (
		<div className="chart-table">
			<table>
				<thead>
					<tr>
						<th scope="col">{block.by.name}</th>
						{drawn.flatMap((d) =>
							beside(d, d.name, "before", "target").map((name) => (
								<th key={d.id + name} scope="col">
									{name}
								</th>
							)),
						)}
					</tr>
				</thead>
				<tbody>
					{block.groups.map((g, i) => (
						<tr key={g.key + g.label}>
							<th scope="row">{groupName(block, g)}</th>
							{drawn.flatMap((d) =>
								beside(d, d.texts[i], d.before?.[i], d.goal?.[i]).map((v, n) => (
									// biome-ignore lint/suspicious/noArrayIndexKey: they have no other order
									<td key={d.id + n} className={n ? "text-soft" : undefined}>
										{written(v, d.measure)}
									</td>
								)),
							)}
						</tr>
					))}
				</tbody>
				{!block.series[0]?.part && block.whole.length > 0 && (
					<tfoot>
						<tr>
							<th scope="row">All together</th>
							{drawn.map((d, i) => (
								<td key={d.id} colSpan={beside(d, 1, 1, 1).length}>
									{written(block.whole[i], d.measure)}
								</td>
							))}
						</tr>
					</tfoot>
				)}
			</table>
		</div>
	);
}
