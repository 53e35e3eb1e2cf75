import { useState } from "react";
import { pressed } from "./Plot";
import { type ChartBlock, colourAt, type Drawn, groupName, written } from "./told";

const size = 220;
const thick = 38;

/** Shares of a whole as a ring, with the whole in the middle; what is pointed at is told there instead. */
export function Ring({ block, drawn, open }: { block: ChartBlock; drawn: Drawn[]; open?: (group: number) => void }) {
	const [at, setAt] = useState<number | null>(null);
	const of = drawn[0];
	if (!of) return null;
	const values = of.values.map((v) => Math.max(v ?? 0, 0)); // what is below nothing is no share of anything
	const sum = values.reduce((a, b) => a + b, 0);
	const colour = (i: number) => block.groups[i]?.colour || (block.groups[i]?.others ? "var(--edge)" : colourAt(i));
	const share = (i: number) => (sum ? `${(((values[i] ?? 0) / sum) * 100).toFixed(1)} %` : "–");
	let from = 0;
	const shown = at ?? null;
	return (
		<div className="donut">
			{/* biome-ignore lint/a11y/useSemanticElements: a drawing is no fieldset */}
			<svg viewBox={`0 0 ${size} ${size}`} className="donut-svg" role="group" aria-label={block.title || block.by.name}>
				{block.groups.map((g, i) => {
					const part = sum ? (values[i] ?? 0) / sum : 0;
					const begin = from;
					from += part;
					return (
						// biome-ignore lint/a11y/noStaticElementInteractions: it is a piece of a drawing, and a button where something can be opened
						<path
							key={g.key + g.label}
							d={arc(begin, begin + part)}
							fill={colour(i)}
							role={open ? "button" : "img"}
							tabIndex={part > 0 ? 0 : -1}
							aria-label={`${groupName(block, g)}: ${written(of.texts[i], of.measure)}, ${share(i)}`}
							className="donut-part"
							data-dim={shown !== null && shown !== i}
							onPointerEnter={() => setAt(i)}
							onPointerLeave={() => setAt(null)}
							onFocus={() => setAt(i)}
							onBlur={() => setAt(null)}
							{...pressed(open && (() => open(i)))}
						/>
					);
				})}
				<text x={size / 2} y={size / 2 - 2} textAnchor="middle" className="donut-number">
					{shown === null ? written(block.whole[0], of.measure) : written(of.texts[shown], of.measure)}
				</text>
				<text x={size / 2} y={size / 2 + 18} textAnchor="middle">
					{shown === null ? of.name : share(shown)}
				</text>
			</svg>
			<ul className="donut-list">
				{block.groups.map((g, i) => (
					<li
						key={g.key + g.label}
						data-dim={shown !== null && shown !== i}
						onPointerEnter={() => setAt(i)}
						onPointerLeave={() => setAt(null)}
					>
						<i style={{ background: colour(i) }} />
						<span>{groupName(block, g)}</span>
						<b>{written(of.texts[i], of.measure)}</b>
						<small>{share(i)}</small>
					</li>
				))}
			</ul>
		</div>
	);
}

/** A piece of the ring, from one part of the whole to another, beginning at the top. */
export function arc(from: number, to: number): string {
	const end = Math.min(to, from + 0.9999); // a whole ring would end where it begins, and be nothing
	const point = (part: number, r: number) => {
		const a = part * 2 * Math.PI - Math.PI / 2;
		return `${(size / 2 + r * Math.cos(a)).toFixed(2)} ${(size / 2 + r * Math.sin(a)).toFixed(2)}`;
	};
	const large = end - from > 0.5 ? 1 : 0;
	const [outer, inner] = [size / 2 - 4, size / 2 - 4 - thick];
	return `M${point(from, outer)}A${outer} ${outer} 0 ${large} 1 ${point(end, outer)}L${point(end, inner)}A${inner} ${inner} 0 ${large} 0 ${point(from, inner)}Z`;
}
