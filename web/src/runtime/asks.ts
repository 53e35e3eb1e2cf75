import { useSearchParams } from "react-router";

/**
 * What somebody asks of the blocks of a page: filters, order, words to find. It stands in the address, so that it can be
 * sent to others and survives reload and Back. Each block has its own part, behind its id and a dot.
 */
export function useAsks(block: string) {
	const [params, setParams] = useSearchParams();
	const key = (name: string) => `${block}.${name}`;
	return {
		get: (name: string) => params.get(key(name)) ?? "",
		any: [...params.keys()].some((k) => k.startsWith(key("is.")) || k === key("find")),
		/** Sets some of it; what is empty is not asked any more. */
		set(values: { [name: string]: string }, replace = false) {
			setParams(
				(old) => {
					const next = new URLSearchParams(old);
					for (const [name, value] of Object.entries(values)) {
						if (value) next.set(key(name), value);
						else next.delete(key(name));
					}
					return next;
				},
				{ replace, preventScrollReset: true },
			);
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

/** The part of an address that is for the blocks, as the server reads it. */
export function viewOf(params: URLSearchParams): string {
	const out = new URLSearchParams();
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
