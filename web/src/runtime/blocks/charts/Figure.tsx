import { Minus, TrendingDown, TrendingUp } from "lucide-react";
import { useState } from "react";
import type { BlockOf } from "../../place";
import type { BlockProps } from "..";
import { axisOf } from "./axis";
import { FigureBadge } from "./Badge";
import { Behind } from "./Behind";
import { Choosing } from "./Choosing";
import { Goal } from "./Goal";
import { pathOf } from "./Plot";
import { daysText, written } from "./told";
import "../measure.css";
import "./charts.css";

type FigureBlock = BlockOf<"figure">;

/** One number, or a few beside each other, with what they were before. */
export default function Figure({ block, where }: BlockProps<"figure">) {
	const [open, setOpen] = useState(false);
	return (
		<section className="card figure" aria-label={block.title || block.measures[0]?.name}>
			<div className="chart-head">
				<div>
					{block.title && <h3 className="figure-title">{block.title}</h3>}
					{(block.days.from || block.days.to) && <p className="text-soft text-sm">{daysText(block.days)}</p>}
				</div>
				<Choosing id={block.id} days={block.days} />
			</div>
			{block.notes?.map((n) => (
				<p key={n} role="status" className="note">
					{n}
				</p>
			))}
			<div className="figure-numbers">
				{block.measures.map((m, i) => (
					<div key={m.id}>
						<p className="figure-number">{written(block.values[i], m)}</p>
						{(block.measures.length > 1 || !block.title) && <p className="text-soft">{m.name}</p>}
						{block.before && <Change block={block} at={i} />}
						<Goal measure={m} value={block.values[i]} />
					</div>
				))}
			</div>
			<FigureBadge block={block} where={where} />
			{open ? (
				<Behind
					block={block.id}
					where={where}
					title={block.title || (block.measures[0]?.name ?? "")}
					onClose={() => setOpen(false)}
				/>
			) : (
				<button type="button" className="text-link text-sm justify-self-start" onClick={() => setOpen(true)}>
					See the records
				</button>
			)}
			{block.course && block.course.length > 1 && <Course values={block.course} />}
		</section>
	);
}

/** How a number differs from that of other days: better or worse where it is said which way is better. */
function Change({ block, at }: { block: FigureBlock; at: number }) {
	const m = block.measures[at];
	const [now, before] = [block.values[at], block.before?.[at]];
	if (!m || now === null || now === undefined || before === null || before === undefined)
		return <p className="text-soft text-sm">Nothing to compare with</p>;
	const by = Number(now) - Number(before);
	const part =
		Number(before) === 0 ? "" : ` (${by > 0 ? "+" : ""}${((by / Math.abs(Number(before))) * 100).toFixed(0)} %)`;
	const good = by === 0 || !block.better ? undefined : block.better === "higher" ? by > 0 : by < 0;
	const Icon = by === 0 ? Minus : by > 0 ? TrendingUp : TrendingDown;
	return (
		<p className="figure-change" data-good={good}>
			<Icon size={15} aria-hidden />
			{by === 0 ? "as before" : `${by > 0 ? "+" : ""}${written(String(Number(by.toPrecision(12))), m)}${part}`}
			{good !== undefined && <span className="sr-only">{good ? ", which is better" : ", which is worse"}</span>}
			<span className="text-soft">
				{written(before, m)}
				{block.beforeDays && `, ${daysText(block.beforeDays)}`}
			</span>
		</p>
	);
}

/** The course of a number, small. */
function Course({ values }: { values: (string | null)[] }) {
	const numbers = values.map((v) => (v === null ? null : Number(v)));
	const axis = axisOf(
		numbers.filter((v) => v !== null),
		4,
	);
	const x = (i: number) => (i / (numbers.length - 1)) * 196 + 2;
	const y = (v: number) => 2 + ((axis.most - v) / (axis.most - axis.least)) * 36;
	return (
		<svg viewBox="0 0 200 40" className="figure-course" preserveAspectRatio="none" aria-hidden="true">
			<path d={pathOf(numbers, (i) => `${x(i).toFixed(1)} ${y(numbers[i] ?? 0).toFixed(1)}`)} />
		</svg>
	);
}
