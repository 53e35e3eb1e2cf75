import { createContext, type Dispatch, type SetStateAction, useContext } from "react";
import { useSearchParams } from "react-router";
import { keptWays } from "./ways";

/** What is asked of blocks that are shown several times on a page, such as in rows that unfold: it stands beside the address. */
export const OwnAsks = createContext<[URLSearchParams, Dispatch<SetStateAction<URLSearchParams>>] | null>(null);

/**
 * What is asked, and how something else is: by the address, or for these blocks alone. What is asked next changes the address as
 * it is by then, not as it was when it was last drawn: two things may be asked at once.
 */
function useParams(): [URLSearchParams, (next: (old: URLSearchParams) => URLSearchParams, replace?: boolean) => void] {
	const [own, setOwn] = useContext(OwnAsks) ?? [];
	const [params, setParams] = useSearchParams();
	if (own && setOwn) return [own, setOwn];
	const here = () => new URLSearchParams(location.search);
	return [params, (next, replace = false) => setParams(() => next(here()), { replace, preventScrollReset: true })];
}

/** What is asked of the blocks of the page, as the server reads it. */
export function useView(path: string) {
	const [params] = useParams();
	return viewOf(params, path);
}

/**
 * What somebody asks of the blocks of a page: filters, order, words to find. It stands in the address, so that it can be
 * sent to others and survives reload and Back. Each block has its own part, behind its id and a dot.
 */
export function useAsks(block: string) {
	const [params, setParams] = useParams();
	const key = (name: string) => `${block}.${name}`;
	return {
		get: (name: string) => params.get(key(name)) ?? "",
		any: [...params.keys()].some((k) => k.startsWith(key("is.")) || k === key("find")),
		/** Sets some of it; what is empty is not asked any more. */
		set(values: { [name: string]: string }, replace = false) {
			setParams((old) => {
				const next = new URLSearchParams(old);
				for (const [name, value] of Object.entries(values)) {
					if (value) next.set(key(name), value);
					else next.delete(key(name));
				}
				return next;
			}, replace);
		},
		/** Asks for all again. */
		clear() {
			setParams((old) => {
				const next = new URLSearchParams(old);
				for (const name of [...next.keys()]) if (name.startsWith(key("is.")) || name === key("find")) next.delete(name);
				return next;
			});
		},
	};
}

/** The part of an address that is for the blocks of a page, as the server reads it, with the ways that are kept. */
export function viewOf(params: URLSearchParams, path: string): string {
	const out = new URLSearchParams();
	for (const [block, way] of Object.entries(keptWays(path)))
		if (!params.has(`${block}.as`) && typeof way === "string") out.append(`${block}.as`, way);
	for (const [name, value] of params) if (name.includes(".") && !name.startsWith("set.")) out.append(name, value);
	out.sort();
	return out.toString();
}

/** What an address fills in beforehand in forms, by the ids of fields. */
export function given(params: URLSearchParams): { [field: string]: string } {
	const out: { [field: string]: string } = {};
	for (const [name, value] of params) if (name.startsWith("set.")) out[name.slice(4)] = value;
	return out;
}
