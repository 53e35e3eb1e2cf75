/** What a form said before it led back to the page from which somebody came, until that is shown. */
let said: { thanks: string; at?: string } | undefined;

export function sayOnReturn(thanks: string) {
	said = { thanks };
}

/** What is said at a place of the history: at the first that is shown after it was said, and only there. */
export function saidAt(key: string): string | undefined {
	if (!said) return undefined;
	said.at ??= key;
	return said.at === key ? said.thanks : undefined;
}
