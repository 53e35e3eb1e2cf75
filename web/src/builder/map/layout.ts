/** What the map draws of a table: its name, and the links that it has. */
export interface MapTable {
	id: string;
	name: string;
	/** How many fields it has besides its links. */
	others: number;
	links: { id: string; name: string; target: string; many: boolean }[];
}

export interface Box {
	table: MapTable;
	x: number;
	y: number;
	width: number;
	height: number;
}

export interface Way {
	/** The id of the link. */
	id: string;
	from: string;
	to: string;
	many: boolean;
	path: string;
}

export interface Drawing {
	boxes: Box[];
	ways: Way[];
	width: number;
	height: number;
}

export const boxWidth = 168;
export const headHeight = 32;
export const rowHeight = 22;
const columnGap = 64;
const rowGap = 26;
const margin = 20;

const heightOf = (t: MapTable) => headHeight + rowHeight * (t.links.length + (t.others > 0 ? 1 : 0)) + 6;

/**
 * Places the tables in columns, so that links lead from right to left wherever they can: what others point to stands
 * on the left. Tables without any link stand below.
 */
export function draw(tables: MapTable[]): Drawing {
	const known = new Set(tables.map((t) => t.id));
	const linked = new Set(
		tables.flatMap((t) => t.links.filter((l) => l.target !== t.id).flatMap((l) => [t.id, l.target])),
	);
	const columns = order(
		intoColumns(
			tables.filter((t) => linked.has(t.id)),
			known,
		),
	);
	const boxes = place(columns);
	const alone = tables.filter((t) => !linked.has(t.id));
	const below = boxes.reduce((y, b) => Math.max(y, b.y + b.height), margin - rowGap * 2) + rowGap * 2;
	const perRow = Math.max(4, columns.length);
	let top = below;
	for (let i = 0; i < alone.length; i += perRow) {
		const row = alone.slice(i, i + perRow);
		row.forEach((table, j) => {
			boxes.push({ table, x: margin + j * (boxWidth + columnGap), y: top, width: boxWidth, height: heightOf(table) });
		});
		top += Math.max(...row.map(heightOf)) + rowGap;
	}
	return {
		boxes,
		ways: ways(boxes),
		width: boxes.reduce((x, b) => Math.max(x, b.x + b.width), 0) + margin,
		height: boxes.reduce((y, b) => Math.max(y, b.y + b.height), 0) + margin,
	};
}

/** Parts tables into columns: each stands right of all that it links to, but for links that lead in a circle. */
function intoColumns(tables: MapTable[], known: Set<string>): MapTable[][] {
	const byId = new Map(tables.map((t) => [t.id, t]));
	const at = new Map<string, number>();
	const visiting = new Set<string>();
	const columnOf = (t: MapTable): number => {
		const had = at.get(t.id);
		if (had !== undefined) return had;
		visiting.add(t.id);
		let column = 0;
		for (const l of t.links) {
			const target = byId.get(l.target);
			if (target && known.has(l.target) && !visiting.has(l.target)) column = Math.max(column, columnOf(target) + 1);
		}
		visiting.delete(t.id);
		at.set(t.id, column);
		return column;
	};
	for (const t of tables) columnOf(t);
	// what links to nothing itself stands close to those that link to it
	for (const t of tables) {
		if (t.links.some((l) => l.target !== t.id && byId.has(l.target))) continue;
		const from = tables.filter((o) => o.id !== t.id && o.links.some((l) => l.target === t.id));
		at.set(t.id, Math.max(0, Math.min(...from.map((o) => at.get(o.id) ?? 0)) - 1));
	}
	const columns: MapTable[][] = [];
	for (const t of tables) {
		const i = at.get(t.id) ?? 0;
		while (columns.length <= i) columns.push([]);
		columns[i]?.push(t);
	}
	return columns;
}

const sweeps = 12;

/** Orders each column by where the neighbours of its tables stand, so that links cross less. */
function order(columns: MapTable[][]): MapTable[][] {
	const near = neighbours(columns.flat());
	let now = columns.map((c) => [...c]);
	for (let n = 0; n < sweeps; n++) {
		const height = new Map<string, number>();
		for (const c of now) for (const [i, t] of c.entries()) height.set(t.id, (i + 0.5) / c.length);
		now = now.map((c) => {
			const wanted = new Map(c.map((t) => [t.id, mean((near.get(t.id) ?? []).map((id) => height.get(id) ?? 0.5))]));
			return [...c].sort((a, b) => (wanted.get(a.id) ?? 0) - (wanted.get(b.id) ?? 0));
		});
	}
	return now;
}

const mean = (list: number[]) => (list.length ? list.reduce((a, b) => a + b, 0) / list.length : 0.5);

function neighbours(tables: MapTable[]): Map<string, string[]> {
	const near = new Map<string, string[]>(tables.map((t) => [t.id, []]));
	for (const t of tables)
		for (const l of t.links) {
			near.get(t.id)?.push(l.target);
			near.get(l.target)?.push(t.id);
		}
	return near;
}

/** Gives each table its place: near the middle of its neighbours, without touching the others of its column. */
function place(columns: MapTable[][]): Box[] {
	const boxes = columns.map((c, i) => {
		let y = margin;
		return c.map((table): Box => {
			const box = { table, x: margin + i * (boxWidth + columnGap), y, width: boxWidth, height: heightOf(table) };
			y += box.height + rowGap;
			return box;
		});
	});
	const byId = new Map(boxes.flat().map((b) => [b.table.id, b]));
	const near = neighbours(columns.flat());
	for (let n = 0; n < sweeps; n++)
		for (const column of boxes) {
			for (const b of column) {
				const at = (near.get(b.table.id) ?? []).flatMap((id) => byId.get(id) ?? []).map((o) => o.y + o.height / 2);
				if (at.length) b.y = mean(at) - b.height / 2;
			}
			apart(column);
		}
	const top = Math.min(...boxes.flat().map((b) => b.y));
	for (const b of boxes.flat()) b.y += margin - top;
	return boxes.flat();
}

/** Moves the boxes of a column apart, in their order, as little as they need. */
function apart(column: Box[]) {
	for (let i = 1; i < column.length; i++) {
		const above = column[i - 1] as Box;
		const b = column[i] as Box;
		const overlap = above.y + above.height + rowGap - b.y;
		if (overlap <= 0) continue;
		b.y += overlap;
	}
	// what was pushed down far is pulled up again, as far as there is room
	for (let i = column.length - 2; i >= 0; i--) {
		const b = column[i] as Box;
		const below = column[i + 1] as Box;
		b.y = Math.min(b.y, below.y - rowGap - b.height);
	}
}

function ways(boxes: Box[]): Way[] {
	const byId = new Map(boxes.map((b) => [b.table.id, b]));
	return boxes.flatMap((from) =>
		from.table.links.flatMap((l, i) => {
			const to = byId.get(l.target);
			if (!to) return [];
			const y = from.y + headHeight + rowHeight * (i + 0.5);
			return { id: l.id, from: from.table.id, to: l.target, many: l.many, path: way(from, y, to) };
		}),
	);
}

function way(from: Box, y: number, to: Box): string {
	const end = to.y + headHeight / 2;
	if (to.x < from.x) {
		const bend = Math.max(40, (from.x - to.x - to.width) / 2);
		return `M ${from.x} ${y} C ${from.x - bend} ${y}, ${to.x + to.width + bend} ${end}, ${to.x + to.width} ${end}`;
	}
	// to its own column, to itself, or back: around the right side
	const right = Math.max(from.x + from.width, to.x + to.width) + 34;
	return `M ${from.x + from.width} ${y} C ${right} ${y}, ${right} ${end}, ${to.x + to.width} ${end}`;
}
