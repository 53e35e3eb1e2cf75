import { useState } from "react";
import { type FieldOut, useOfApp, type ViewList, type ViewOut, type ViewSettings } from "../api";

export interface SortBy {
	/** The id of a field, and behind a dot that of a column of its choice list. */
	field: string;
	falling: boolean;
}

export const plain: ViewSettings = { order: [], hidden: [], widths: {}, frozen: 1, sort: "", group: "", filter: "" };

export const sortsOf = (text: string): SortBy[] =>
	text === ""
		? []
		: text
				.split(",")
				.map((s) => (s.startsWith("-") ? { field: s.slice(1), falling: true } : { field: s, falling: false }));

export const sortText = (sorts: SortBy[]) => sorts.map((s) => (s.falling ? `-${s.field}` : s.field)).join(",");

/** Settings without what is about fields that are not there, or not seen. */
export function fitting(s: ViewSettings, fields: FieldOut[]): ViewSettings {
	const there = (id: string) => fields.some((f) => f.id === id.split(".")[0]);
	return {
		...s,
		group: there(s.group) ? s.group : "",
		sort: sortText(sortsOf(s.sort).filter((x) => there(x.field))),
	};
}

/** The sorting that the server is asked for: groups first, so that each stands together. */
export function askedSort(s: ViewSettings): string {
	const sorts = sortsOf(s.sort);
	if (!s.group) return s.sort;
	const own = sorts.find((x) => x.field === s.group) ?? { field: s.group, falling: false };
	return sortText([own, ...sorts.filter((x) => x.field !== s.group)]);
}

function read(key: string): ViewSettings {
	try {
		return { ...plain, ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<ViewSettings>) };
	} catch {
		return plain; // whatever stood there is no layout of ours
	}
}

/** How a table is looked at: by a view that was kept, with what was changed since, or as this browser had it last. */
export function useView(app: string, table: string) {
	const layoutKey = `columns ${app} ${table}`;
	const chosenKey = `view ${app} ${table}`;
	const list = useOfApp<ViewList>(app, `/tables/${table}/views`);
	const [chosen, setChosen] = useState(() => localStorage.getItem(chosenKey) ?? "");
	const [own, setOwn] = useState(() => read(layoutKey));
	const [edited, setEdited] = useState<ViewSettings | null>(null);
	const view = list.data?.views.find((v) => v.id === chosen);
	return {
		views: list.data?.views ?? [],
		/** The view that is chosen may not be known yet. */
		ready: chosen === "" || list.data !== undefined,
		view,
		settings: edited ?? view?.settings ?? own,
		changed: view !== undefined && edited !== null && JSON.stringify(edited) !== JSON.stringify(view.settings),
		change: (next: ViewSettings) => {
			if (view) setEdited(next);
			else {
				setOwn(next);
				const { order, hidden, widths, frozen } = next; // a filter that one forgot would hide records
				localStorage.setItem(layoutKey, JSON.stringify({ order, hidden, widths, frozen }));
			}
		},
		choose: (v: ViewOut | undefined) => {
			setChosen(v?.id ?? "");
			setEdited(null);
			localStorage.setItem(chosenKey, v?.id ?? "");
		},
		revert: () => setEdited(null),
	};
}

export type ViewState = ReturnType<typeof useView>;

/** The fields in the order of the view, without hidden ones; new fields come last. */
export function arrange(fields: FieldOut[], s: ViewSettings): FieldOut[] {
	return ordered(fields, s).filter((f) => !s.hidden.includes(f.id));
}

export function ordered(fields: FieldOut[], s: ViewSettings): FieldOut[] {
	const at = (f: FieldOut) => {
		const i = s.order.indexOf(f.id);
		return i < 0 ? fields.length + fields.indexOf(f) : i;
	};
	return [...fields].sort((a, b) => at(a) - at(b));
}
