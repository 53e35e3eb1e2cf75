import { type KeyboardEvent, type ReactNode, useLayoutEffect, useRef, useState } from "react";
import { type Axis, axisOf, everyLabel, fitting, textWidth } from "./axis";
import { type ChartBlock, type Drawn, groupName, written } from "./told";

const high = 250;
const below = 26;

/** Numbers in groups, drawn over each other: what is pointed at, or has the focus, is told beside it. */
export function Plot({ block, drawn, open }: { block: ChartBlock; drawn: Drawn[]; open?: (group: number) => void }) {
	const [box, wide] = useWidth();
	const [at, setAt] = useState<number | null>(null);
	const sideways = block.shape === "sideways";
	const n = block.groups.length;
	const tall = sideways ? Math.max(high, n * Math.max(26, drawn.length * 14) + below) : high;
	const keys = (e: KeyboardEvent) => {
		const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key];
		const next =
			e.key === "Home" ? 0 : e.key === "End" ? n - 1 : step && Math.min(n - 1, Math.max(0, (at ?? 0) + step));
		if (next === undefined) return;
		e.preventDefault();
		setAt(next);
		box.current?.querySelector<SVGElement>(`[data-group="${next}"]`)?.focus();
	};
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the groups in it have the focus, and this hears their keys
		<div ref={box} className="plot" onPointerLeave={() => setAt(null)} onKeyDown={keys}>
			{wide > 0 &&
				(sideways ? (
					<Sideways {...{ block, drawn, wide, tall, at, setAt, open }} />
				) : (
					<Upright {...{ block, drawn, wide, tall, at, setAt, open }} />
				))}
			{at !== null && at < n && <Told block={block} drawn={drawn} at={at} />}
		</div>
	);
}

/** How wide an element is, now and when it changes. */
function useWidth(): [React.RefObject<HTMLDivElement | null>, number] {
	const box = useRef<HTMLDivElement>(null);
	const [wide, setWide] = useState(0);
	useLayoutEffect(() => {
		const see = () => setWide(Math.round(box.current?.clientWidth ?? 0));
		see();
		if (!box.current || typeof ResizeObserver === "undefined") return;
		const watch = new ResizeObserver(see);
		watch.observe(box.current);
		return () => watch.disconnect();
	}, []);
	return [box, wide];
}

interface DrawProps {
	block: ChartBlock;
	drawn: Drawn[];
	wide: number;
	tall: number;
	at: number | null;
	setAt: (group: number | null) => void;
	open?: (group: number) => void;
}

/** What stands at each group of the series that are no lines: from where to where, stacked or as shares where they are. */
function stacks(block: ChartBlock, drawn: Drawn[]): { from: number; to: number }[][] {
	const on = block.stack === "stacked" || block.stack === "shares";
	const whole = block.groups.map((_, i) => drawn.reduce((sum, d) => sum + Math.abs(d.values[i] ?? 0), 0));
	const up = block.groups.map(() => 0);
	const down = block.groups.map(() => 0);
	return drawn.map((d) =>
		block.groups.map((_, i) => {
			let v = d.values[i] ?? 0;
			if (block.stack === "shares") v = whole[i] ? (v / (whole[i] ?? 1)) * 100 : 0;
			if (!on) return { from: 0, to: v };
			const at = v < 0 ? down : up;
			const from = at[i] ?? 0;
			at[i] = from + v;
			return { from, to: from + v };
		}),
	);
}

function marksOf(block: ChartBlock, drawn: Drawn[], axis: Axis): string[] {
	const measure = drawn[0]?.measure;
	return axis.marks.map((m) =>
		block.stack === "shares"
			? `${m} %`
			: measure
				? written(String(m), {
						...measure,
						column: {
							...measure.column,
							decimals: roundAs(measure.column.decimals ?? (measure.column.currency ? 2 : 6), axis),
						},
					})
				: String(m),
	);
}

/** Marks have no more decimals than they need. */
function roundAs(decimals: number, axis: Axis): number {
	const needed = Math.max(...axis.marks.map((m) => (String(m).split(".")[1] ?? "").length));
	return Math.min(decimals, needed);
}

function Upright({ block, drawn, wide, tall, at, setAt, open }: DrawProps) {
	const bars = drawn.filter((d) => !d.line);
	const lines = drawn.filter((d) => d.line);
	const areas = block.shape === "areas";
	const of = stacks(block, bars);
	const over = stacks({ ...block, stack: areas ? block.stack : undefined }, lines);
	const ends = [...of, ...over].flatMap((s) => s.flatMap((x) => [x.to]));
	const befores = drawn.flatMap((d) =>
		[...(d.before ?? []), ...(d.goal ?? [])].flatMap((v) => (v === null ? [] : [Number(v)])),
	);
	const axis = axisOf(
		[...ends, ...befores],
		5,
		bars.length > 0 || areas || !lines.length || Math.min(...ends) < Math.max(...ends) * 0.8,
	);
	const marks = marksOf(block, drawn, axis);
	const left = Math.max(...marks.map(textWidth), 20) + 10;
	const room = Math.max(wide - left - 6, 10);
	const y = (v: number) => 10 + ((axis.most - v) / (axis.most - axis.least)) * (tall - below - 10);
	const n = Math.max(block.groups.length, 1);
	const band = room / n;
	const x = (i: number) => left + band * (i + 0.5);
	const labels = block.groups.map((g) => groupName(block, g, true));
	const every = block.unit ? everyLabel(n, Math.max(...labels.map(textWidth), 10) + 14, room) : everyLabel(n, 34, room); // words are cut instead of left out, as long as there is some room
	const side = block.stack ? 1 : Math.max(bars.length, 1);
	const bar = Math.min((band * 0.74) / side, 46);
	const zero = y(Math.min(Math.max(0, axis.least), axis.most));
	return (
		// biome-ignore lint/a11y/useSemanticElements: a drawing is no fieldset
		<svg width={wide} height={tall} className="plot-svg" role="group" aria-label={block.title || block.by.name}>
			{axis.marks.map((m, i) => (
				<g key={m}>
					<line x1={left} x2={wide - 6} y1={y(m)} y2={y(m)} className={m === 0 ? "plot-zero" : "plot-mark"} />
					<text x={left - 8} y={y(m) + 4} textAnchor="end">
						{marks[i]}
					</text>
				</g>
			))}
			{labels.map(
				(label, i) =>
					i % every === 0 && (
						<text key={`${block.groups[i]?.key} ${block.groups[i]?.label}`} x={x(i)} y={tall - 8} textAnchor="middle">
							{fitting(label, block.unit ? 200 : Math.max(band * every - 6, 20))}
						</text>
					),
			)}
			{bars.map((d, s) =>
				(of[s] ?? []).map((v, i) => {
					const begin = block.stack ? x(i) - bar / 2 : x(i) - (bar * side) / 2 + s * bar;
					const before = Number(d.before?.[i] ?? Number.NaN);
					return (
						// biome-ignore lint/suspicious/noArrayIndexKey: groups have no other order
						<g key={i}>
							{d.values[i] !== null && (
								<rect
									x={begin + 1}
									width={Math.max(bar - 2, 1)}
									y={Math.min(y(v.from), y(v.to))}
									height={Math.max(Math.abs(y(v.from) - y(v.to)), v.to === v.from ? 0 : 1)}
									rx={Math.min(2, bar / 4)}
									fill={d.colour}
									className="plot-bar"
									data-dim={at !== null && at !== i}
								/>
							)}
							{Number.isFinite(before) && !block.stack && (
								<line x1={begin - 1} x2={begin + bar + 1} y1={y(before)} y2={y(before)} className="plot-before" />
							)}
						</g>
					);
				}),
			)}
			{lines.map((d, s) => (
				<Line key={d.id} d={d} s={s} of={over[s] ?? []} x={x} y={y} zero={zero} area={areas} />
			))}
			<Goals
				drawn={drawn}
				place={(i, g) => ({ x1: left + band * i + 1, x2: left + band * (i + 1) - 1, y1: y(g), y2: y(g) })}
			/>
			<Groups
				{...{ block, drawn, setAt, at, open }}
				place={(i) => ({ x: left + band * i, y: 4, width: band, height: tall - below })}
			/>
		</svg>
	);
}

const shapes = ["circle", "square", "diamond", "triangle"] as const;

/** A mark of a series, which tells it from others without its colour. */
export function Mark({ at, x, y, colour }: { at: number; x: number; y: number; colour: string }) {
	switch (shapes[at % shapes.length]) {
		case "square":
			return <rect x={x - 3} y={y - 3} width={6} height={6} fill={colour} />;
		case "diamond":
			return <path d={`M${x} ${y - 4.5}l4.5 4.5l-4.5 4.5l-4.5 -4.5z`} fill={colour} />;
		case "triangle":
			return <path d={`M${x} ${y - 4.5}l4.5 8h-9z`} fill={colour} />;
		default:
			return <circle cx={x} cy={y} r={3.5} fill={colour} />;
	}
}

interface LineProps {
	d: Drawn;
	s: number;
	of: { from: number; to: number }[];
	x: (i: number) => number;
	y: (v: number) => number;
	zero: number;
	area: boolean;
}

/** A line with a mark at each of its numbers; it has gaps where there are none. */
function Line({ d, s, of, x, y, zero, area }: LineProps) {
	const path = pathOf(d.values, (i) => `${x(i).toFixed(1)} ${y(of[i]?.to ?? 0).toFixed(1)}`);
	const back = of.map((v, i) => `${x(i).toFixed(1)} ${(v.from ? y(v.from) : zero).toFixed(1)}`).reverse();
	const before =
		d.before &&
		pathOf(
			d.before.map((v) => (v === null ? null : Number(v))),
			(i) => `${x(i)} ${y(Number(d.before?.[i]))}`,
		);
	return (
		<g>
			{area && (
				<path
					d={`${pathOf(
						d.values.map((v) => v ?? 0),
						(i) => `${x(i)} ${y(of[i]?.to ?? 0)}`,
					)}L${back.join("L")}Z`}
					fill={d.colour}
					opacity={0.22}
				/>
			)}
			{before && <path d={before} className="plot-before" fill="none" />}
			<path d={path} fill="none" stroke={d.colour} strokeWidth={2} strokeLinejoin="round" />
			{d.values.length <= 60 &&
				d.values.map(
					(v, i) =>
						// biome-ignore lint/suspicious/noArrayIndexKey: groups have no other order
						v !== null && <Mark key={i} at={s} x={x(i)} y={y(of[i]?.to ?? 0)} colour={d.colour} />,
				)}
		</g>
	);
}

/** The path through what is not null. */
export function pathOf(values: (number | null)[], at: (i: number) => string): string {
	let out = "";
	for (const [i, v] of values.entries()) {
		if (v === null) continue;
		const goesOn = i > 0 && values[i - 1] !== null && out !== "";
		out += `${goesOn ? "L" : "M"}${at(i)}`;
	}
	return out;
}

function Sideways({ block, drawn, wide, tall, at, setAt, open }: DrawProps) {
	const of = stacks(block, drawn);
	const axis = axisOf(
		[
			...of.flatMap((s) => s.map((v) => v.to)),
			...drawn.flatMap((d) => [...(d.before ?? []), ...(d.goal ?? [])].flatMap((v) => (v === null ? [] : [Number(v)]))),
		],
		wide < 500 ? 3 : 5,
	);
	const marks = marksOf(block, drawn, axis);
	const labels = block.groups.map((g) => groupName(block, g));
	const left = Math.min(Math.max(...labels.map(textWidth), 20) + 12, wide * 0.36);
	const room = Math.max(wide - left - 24, 10);
	const x = (v: number) => left + ((v - axis.least) / (axis.most - axis.least)) * room;
	const band = (tall - below) / Math.max(block.groups.length, 1);
	const side = block.stack ? 1 : Math.max(drawn.length, 1);
	const bar = Math.min((band * 0.72) / side, 26);
	return (
		// biome-ignore lint/a11y/useSemanticElements: a drawing is no fieldset
		<svg width={wide} height={tall} className="plot-svg" role="group" aria-label={block.title || block.by.name}>
			{axis.marks.map((m, i) => (
				<g key={m}>
					<line x1={x(m)} x2={x(m)} y1={0} y2={tall - below} className={m === 0 ? "plot-zero" : "plot-mark"} />
					<text x={x(m)} y={tall - 8} textAnchor="middle">
						{marks[i]}
					</text>
				</g>
			))}
			{labels.map((label, i) => (
				<text
					key={`${block.groups[i]?.key} ${block.groups[i]?.label}`}
					x={left - 8}
					y={band * (i + 0.5) + 4}
					textAnchor="end"
				>
					{fitting(label, left - 12)}
				</text>
			))}
			{drawn.map((d, s) =>
				(of[s] ?? []).map((v, i) => {
					const begin = block.stack ? band * (i + 0.5) - bar / 2 : band * (i + 0.5) - (bar * side) / 2 + s * bar;
					const before = Number(d.before?.[i] ?? Number.NaN);
					return (
						// biome-ignore lint/suspicious/noArrayIndexKey: groups have no other order
						<g key={i}>
							<rect
								y={begin + 1}
								height={Math.max(bar - 2, 1)}
								x={Math.min(x(v.from), x(v.to))}
								width={Math.abs(x(v.to) - x(v.from))}
								rx={2}
								fill={d.colour}
								className="plot-bar"
								data-dim={at !== null && at !== i}
							/>
							{Number.isFinite(before) && !block.stack && (
								<line y1={begin - 1} y2={begin + bar + 1} x1={x(before)} x2={x(before)} className="plot-before" />
							)}
						</g>
					);
				}),
			)}
			<Goals drawn={drawn} place={(i, g) => ({ x1: x(g), x2: x(g), y1: band * i + 1, y2: band * (i + 1) - 1 })} />
			<Groups
				{...{ block, drawn, setAt, at, open }}
				place={(i) => ({ x: 0, y: band * i, width: wide, height: band })}
			/>
		</svg>
	);
}

interface GoalsProps {
	drawn: Drawn[];
	place: (i: number, goal: number) => { x1: number; x2: number; y1: number; y2: number };
}

/** The targets of groups, each as a line across its group, with a rim that stands out before bars. */
function Goals({ drawn, place }: GoalsProps): ReactNode {
	return drawn.flatMap((d) =>
		(d.goal ?? []).map(
			(g, i) =>
				g !== null && (
					// biome-ignore lint/suspicious/noArrayIndexKey: groups have no other order
					<g key={d.id + i}>
						<line {...place(i, Number(g))} className="plot-goal-rim" />
						<line {...place(i, Number(g))} className="plot-goal" />
					</g>
				),
		),
	);
}

/** A number in full, with its target. */
function whole(d: Drawn, i: number): string {
	const aim = d.goal?.[i] ? ` of ${written(d.goal[i], d.measure)}` : "";
	return `${d.name} ${written(d.texts[i], d.measure)}${aim}`;
}

/** What a piece of a drawing does when it is pressed, also by its keys. */
export const pressed = (act?: () => void) => ({
	onClick: act,
	onKeyDown: (e: KeyboardEvent) => {
		if (!act || (e.key !== "Enter" && e.key !== " ")) return;
		e.preventDefault();
		act();
	},
});

interface GroupsProps {
	block: ChartBlock;
	drawn: Drawn[];
	at: number | null;
	setAt: (group: number | null) => void;
	open?: (group: number) => void;
	place: (i: number) => { x: number; y: number; width: number; height: number };
}

/** What is pointed at: a field over each group, of which one is reached by Tab, and the others by arrows. */
function Groups({ block, drawn, at, setAt, open, place }: GroupsProps): ReactNode {
	return block.groups.map((g, i) => (
		// biome-ignore lint/a11y/noStaticElementInteractions: it is a piece of a drawing, and a button where something can be opened
		<rect
			key={g.key + g.label}
			{...place(i)}
			role={open ? "button" : "img"}
			tabIndex={i === (at ?? 0) ? 0 : -1}
			data-group={i}
			className="plot-group"
			aria-label={`${groupName(block, g)}: ${drawn.map((d) => whole(d, i)).join(", ")}`}
			onPointerEnter={() => setAt(i)}
			onPointerDown={() => setAt(i)}
			onFocus={() => setAt(i)}
			onBlur={() => setAt(null)}
			{...pressed(open && (() => open(i)))}
		/>
	));
}

/** The numbers of a group in full. */
export function Told({ block, drawn, at }: { block: ChartBlock; drawn: Drawn[]; at: number }) {
	const g = block.groups[at];
	if (!g) return null;
	return (
		<div className="plot-told" aria-hidden="true" data-right={at > block.groups.length / 2 || undefined}>
			<strong>{groupName(block, g)}</strong>
			{drawn.map((d) => (
				<span key={d.id}>
					<i style={{ background: d.colour }} />
					{d.name} <b>{written(d.texts[at], d.measure)}</b>
					{d.before && <em>before {written(d.before[at], d.measure)}</em>}
					{d.goal?.[at] && <em>target {written(d.goal[at], d.measure)}</em>}
				</span>
			))}
		</div>
	);
}
