import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, configure, render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { type ReactNode, useState } from "react";
import { BrowserRouter } from "react-router";
import { afterEach, vi } from "vitest";

configure({ asyncUtilTimeout: 5_000 }); // a machine that does other things loads what is needed later

/** A request that a component made. */
export interface Asked {
	method: string;
	path: string;
	query: URLSearchParams;
	// biome-ignore lint/suspicious/noExplicitAny: a test looks at what it expects
	body: any;
}

type Answer = unknown | ((asked: Asked) => unknown);

/** An answer that refuses, as the server does. */
export class Refusal {
	constructor(
		readonly status: number,
		readonly detail: string,
		readonly errors: { location: string; message: string }[] = [],
	) {}
}

/**
 * Answers requests by what stands under "METHOD path", and gives the list of those that were made. A request that
 * nothing stands for fails the test that makes it.
 */
export function answering(answers: Record<string, Answer>): Asked[] {
	const made: Asked[] = [];
	vi.stubGlobal("fetch", async (url: string, init: RequestInit = {}) => {
		const at = new URL(url, "http://test.example");
		const asked: Asked = {
			method: init.method ?? "GET",
			path: at.pathname,
			query: at.searchParams,
			body: init.body ? JSON.parse(String(init.body)) : undefined,
		};
		made.push(asked);
		const key = Object.keys(answers).find((k) => matches(k, asked));
		if (!key) throw new Error(`nothing answers ${asked.method} ${asked.path}`);
		const answer = answers[key];
		const got = typeof answer === "function" ? await (answer as (a: Asked) => unknown)(asked) : answer;
		if (got instanceof Refusal)
			return new Response(JSON.stringify({ detail: got.detail, errors: got.errors }), { status: got.status });
		return got === undefined ? new Response(null, { status: 204 }) : new Response(JSON.stringify(got));
	});
	return made;
}

/** Whether a request is for "METHOD …/end of the path". */
function matches(key: string, asked: Asked): boolean {
	const [method, end] = key.split(" ");
	return asked.method === method && asked.path.endsWith(end ?? "");
}

/** Live news, of which there are none. */
class Silence {
	close() {}
}

/** Shows something as the builder or an app would, and gives a person to use it. */
export function show(what: ReactNode, at = "/") {
	vi.stubGlobal("EventSource", Silence);
	history.replaceState(null, "", at);
	const client = new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } });
	const view = render(
		<QueryClientProvider client={client}>
			<BrowserRouter>{what}</BrowserRouter>
		</QueryClientProvider>,
	);
	return { ...view, client, person: userEvent.setup() };
}

/** Holds a value that is shown and changed, and tells what it was last. */
export function Holding<T>(p: { latest: { value: T }; children: (value: T, change: (v: T) => void) => ReactNode }) {
	const [value, setValue] = useState(p.latest.value);
	p.latest.value = value;
	return p.children(value, setValue);
}

afterEach(() => {
	cleanup();
	vi.unstubAllGlobals();
});
