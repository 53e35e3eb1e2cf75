import { useState } from "react";
import type { FieldOut } from "../api";

/** How somebody likes the columns of a table: it is kept in their browser. */
export interface Layout {
	order: string[];
	hidden: string[];
	widths: Record<string, number>;
	frozen: number;
}

const plain: Layout = { order: [], hidden: [], widths: {}, frozen: 1 };

function read(key: string): Layout {
	try {
		return { ...plain, ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<Layout>) };
	} catch {
		return plain; // whatever stood there is no layout of ours
	}
}

export function useLayout(of: string): [Layout, (l: Layout) => void] {
	const key = `columns ${of}`;
	const [layout, setLayout] = useState(() => read(key));
	return [
		layout,
		(l) => {
			setLayout(l);
			localStorage.setItem(key, JSON.stringify(l));
		},
	];
}

/** The fields in the order of the layout, without hidden ones; new fields come last. */
export function arrange(fields: FieldOut[], layout: Layout): FieldOut[] {
	return ordered(fields, layout).filter((f) => !layout.hidden.includes(f.id));
}

export function ordered(fields: FieldOut[], layout: Layout): FieldOut[] {
	const at = (f: FieldOut) => {
		const i = layout.order.indexOf(f.id);
		return i < 0 ? fields.length + fields.indexOf(f) : i;
	};
	return [...fields].sort((a, b) => at(a) - at(b));
}
