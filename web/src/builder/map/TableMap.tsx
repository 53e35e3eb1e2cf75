import { Minus, Plus } from "lucide-react";
import { useLayoutEffect, useMemo, useRef, useState } from "react";
import type { AppOut } from "../api";
import { type Box, draw, headHeight, type MapTable, rowHeight } from "./layout";

/** The tables of an app as the map draws them: links, without those that only show the other side. */
function tablesOf(app: AppOut): MapTable[] {
	return (app.tables ?? []).map((t) => {
		const links = t.fields.filter((f) => f.target && (f.type === "link" || !f.otherSide));
		return {
			id: t.id,
			name: t.name,
			others: t.fields.length - links.length,
			links: links.map((f) => ({ id: f.id, name: f.name, target: f.target ?? "", many: f.type === "links" })),
		};
	});
}

/** All tables with the links between them. */
export function TableMap({
	app,
	onOpen,
	onClose,
}: {
	app: AppOut;
	onOpen: (table: string) => void;
	onClose: () => void;
}) {
	const drawing = useMemo(() => draw(tablesOf(app)), [app]);
	const frame = useRef<HTMLDivElement>(null);
	const [zoom, setZoom] = useState(1);
	const [over, setOver] = useState("");
	useLayoutEffect(() => {
		const box = frame.current;
		if (!box) return;
		const fits = Math.min(box.clientWidth / drawing.width, box.clientHeight / drawing.height);
		setZoom(Math.max(0.7, Math.min(1, fits))); // smaller could not be read
	}, [drawing]);
	const by = (factor: number) => setZoom((z) => Math.max(0.25, Math.min(2, z * factor)));
	const near = new Set(drawing.ways.filter((w) => w.from === over || w.to === over).flatMap((w) => [w.from, w.to]));
	return (
		<>
			<div className="flex items-center gap-3 px-4 h-12 border-b border-line shrink-0">
				<h2 className="font-display text-lg font-semibold">Map of the tables</h2>
				<span className="text-soft truncate">Lines show links. Click a table to open it.</span>
				<button type="button" className="btn ml-auto" aria-label="Smaller" onClick={() => by(0.8)}>
					<Minus size={15} />
				</button>
				<button type="button" className="btn" aria-label="Larger" onClick={() => by(1.25)}>
					<Plus size={15} />
				</button>
				<button type="button" className="btn" onClick={onClose}>
					Back to the records
				</button>
			</div>
			<div ref={frame} className="flex-1 min-h-0 overflow-auto bg-surface">
				<svg
					width={drawing.width * zoom}
					height={drawing.height * zoom}
					viewBox={`0 0 ${drawing.width} ${drawing.height}`}
				>
					<title>Tables and the links between them</title>
					<defs>
						<marker id="map-end" viewBox="0 0 10 10" refX="9" refY="5" markerWidth="8" markerHeight="8" orient="auto">
							<path d="M 0 1 L 9 5 L 0 9 z" fill="context-stroke" />
						</marker>
					</defs>
					{drawing.ways.map((w) => (
						<path
							key={w.id}
							data-way={w.id}
							d={w.path}
							className={`map-way ${over && (w.from === over || w.to === over) ? "map-near" : over ? "map-far" : ""}`}
							strokeDasharray={w.many ? "7 4" : undefined}
							markerEnd="url(#map-end)"
						/>
					))}
					{drawing.boxes.map((b) => (
						<TableBox
							key={b.table.id}
							box={b}
							far={over !== "" && over !== b.table.id && !near.has(b.table.id)}
							onOver={(on) => setOver(on ? b.table.id : "")}
							onOpen={() => onOpen(b.table.id)}
						/>
					))}
				</svg>
			</div>
		</>
	);
}

interface BoxProps {
	box: Box;
	far: boolean;
	onOver: (on: boolean) => void;
	onOpen: () => void;
}

function TableBox({ box, far, onOver, onOpen }: BoxProps) {
	const { table } = box;
	const line = (i: number) => headHeight + rowHeight * i + 15;
	return (
		// biome-ignore lint/a11y/useSemanticElements: there is no button element inside a drawing
		<g
			transform={`translate(${box.x} ${box.y})`}
			className={`map-box ${far ? "map-far" : ""}`}
			role="button"
			tabIndex={0}
			aria-label={`Show ${table.name}`}
			onClick={onOpen}
			onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && onOpen()}
			onPointerEnter={() => onOver(true)}
			onPointerLeave={() => onOver(false)}
			onFocus={() => onOver(true)}
			onBlur={() => onOver(false)}
		>
			<rect width={box.width} height={box.height} rx={6} className="map-card" />
			<text x={12} y={21} className="map-name">
				{cut(table.name, 19)}
			</text>
			<line x1={0} x2={box.width} y1={headHeight} y2={headHeight} className="map-rule" />
			{table.links.map((l, i) => (
				<text key={l.id} x={12} y={line(i)} className="map-link">
					{cut(l.name, 21)}
				</text>
			))}
			{table.others > 0 && (
				<text x={12} y={line(table.links.length)} className="map-others">
					{table.links.length > 0 ? "and " : ""}
					{table.others} {table.links.length > 0 ? "more " : ""}
					{table.others === 1 ? "field" : "fields"}
				</text>
			)}
		</g>
	);
}

const cut = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);
