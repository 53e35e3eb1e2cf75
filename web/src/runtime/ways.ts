import { base } from "./place";

/** The ways in which somebody last looked at the lists of a page, by their blocks, where these are not how they begin. */
type Ways = { [block: string]: string };

const key = (path: string) => `${base} ways ${path}`;

/** What is kept in this browser; nothing where a browser keeps nothing. */
export function keptWays(path: string): Ways {
	try {
		const found: unknown = JSON.parse(localStorage.getItem(key(path)) ?? "{}");
		return found && typeof found === "object" ? (found as Ways) : {};
	} catch {
		return {};
	}
}

/** Keeps how a list is looked at; "" for how it begins. */
export function keepWay(path: string, block: string, way: string) {
	const ways = keptWays(path);
	if (way) ways[block] = way;
	else delete ways[block];
	try {
		if (Object.keys(ways).length) localStorage.setItem(key(path), JSON.stringify(ways));
		else localStorage.removeItem(key(path));
	} catch {
		// a browser that keeps nothing begins anew each time
	}
}
