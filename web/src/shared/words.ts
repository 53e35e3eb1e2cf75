export type Args = Record<string, string | number | string[]>;

/**
 * Words a message: a whole sentence with named placeholders, so that it can be translated. Where it has variants, which
 * || parts, the argument n chooses among them: for one and for several, or for none, one and several.
 */
export function say(text: string, args: Args = {}): string {
	return variant(text, args.n).replace(/\{(\w+)\}/g, (whole, name: string) => {
		const arg = args[name];
		return arg === undefined ? whole : shown(arg);
	});
}

function variant(text: string, n: Args[string] | undefined): string {
	const all = text.split("||");
	if (typeof n !== "number" || all.length === 1) return all[0] ?? "";
	const at = all.length === 2 ? (n === 1 ? 0 : 1) : Math.min(Math.max(n, 0), 2);
	return all[at] ?? "";
}

const shown = (arg: Args[string]) =>
	typeof arg === "number" ? arg.toLocaleString() : typeof arg === "string" ? arg : listed(arg);

/** Joins texts as the language does: A, B and C. */
export function listed(texts: string[]): string {
	if (texts.length < 2) return texts.join("");
	return `${texts.slice(0, -1).join(", ")} and ${texts[texts.length - 1]}`;
}
