import { useState } from "react";

/** A list of texts that is kept in this browser under a name. */
export function useKept(name: string): [string[], (to: string[]) => void] {
	const key = `pinegate ${name}`;
	const [list, setList] = useState<string[]>(() => {
		try {
			const found: unknown = JSON.parse(localStorage.getItem(key) ?? "[]");
			return Array.isArray(found) ? found.filter((x) => typeof x === "string") : [];
		} catch {
			return []; // somebody else wrote there
		}
	});
	const keep = (to: string[]) => {
		setList(to);
		localStorage.setItem(key, JSON.stringify(to));
	};
	return [list, keep];
}
