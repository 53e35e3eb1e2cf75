import type { Query, QueryClient } from "@tanstack/react-query";

/** How long news are gathered before what is shown is read anew. */
const gather = 150;

/**
 * Reads anew what is shown when somebody writes to it. The news say only that there are some, so that
 * everybody reads by their own rules. Gives what ends it.
 */
export function listen(client: QueryClient, url: string, shown: (q: Query) => boolean): () => void {
	let source: EventSource | null = null;
	let timer = 0;
	let missed = false;
	const news = () => {
		window.clearTimeout(timer);
		timer = window.setTimeout(() => void client.invalidateQueries({ predicate: shown }), gather);
	};
	const open = () => {
		if (source) return;
		source = new EventSource(`${url}?age=${Math.round(performance.now())}`);
		source.onmessage = news;
		source.onerror = () => {
			missed = true;
		};
		source.onopen = () => {
			if (missed) news();
			missed = false;
		};
	};
	// a page that is left but kept by the browser must not hold on to a connection: there are few for each site
	const close = () => {
		source?.close();
		source = null;
		missed = true;
	};
	open();
	window.addEventListener("pagehide", close);
	window.addEventListener("pageshow", open);
	return () => {
		window.removeEventListener("pagehide", close);
		window.removeEventListener("pageshow", open);
		window.clearTimeout(timer);
		close();
	};
}
