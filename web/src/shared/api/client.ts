/** A mistake at one place of what was sent; the location is a field's id or a name of the request's. */
export interface Mistake {
	location?: string;
	message?: string;
}

/** What the server says when it refuses, as RFC 9457 problem details. */
export class Problem extends Error {
	constructor(
		readonly status: number,
		message: string,
		readonly mistakes: Mistake[] = [],
	) {
		super(message);
	}
}

/** Asks the server and gives its answer; throws a {@link Problem} otherwise. */
export async function request<T>(method: string, url: string, body?: unknown, signal?: AbortSignal): Promise<T> {
	let response: Response;
	try {
		response = await fetch(url, {
			method,
			headers: body === undefined ? {} : { "Content-Type": "application/json" },
			body: body === undefined ? undefined : JSON.stringify(body),
			signal,
		});
	} catch {
		throw new Problem(0, "We can’t reach the server. Nothing was saved. Check your connection and try again.");
	}
	if (response.ok) {
		return (response.status === 204 ? undefined : await response.json()) as T;
	}
	const said = (await response.json().catch(() => ({}))) as { detail?: string; errors?: Mistake[] };
	throw new Problem(
		response.status,
		said.detail ?? "Something went wrong. Nothing was saved. Please try again.",
		said.errors ?? [],
	);
}

/** Makes an address with those parameters that are set. */
export function withQuery(url: string, params: Record<string, string | number | boolean | undefined>): string {
	const set = Object.entries(params).filter(([, v]) => v !== undefined && v !== "" && v !== false);
	return set.length ? `${url}?${new URLSearchParams(set.map(([k, v]) => [k, String(v)]))}` : url;
}

/** The words of an error for the person who meets it. */
export function wordsOf(error: unknown): string {
	return error instanceof Error ? error.message : "Something went wrong. Please try again.";
}
