import { useCallback } from "react";
import { useSearchParams } from "react-router";

/**
 * What the address of a stop says: as whom the app is seen, and what is open. What is set is set in the address as it is
 * by then, not as it was when it was last looked at: two things may be set at once.
 */
export function useAddress() {
	const [search, setSearch] = useSearchParams();
	const set = useCallback(
		(next: Record<string, string>) =>
			setSearch(
				() => {
					const now = new URLSearchParams(location.search);
					for (const [k, v] of Object.entries(next)) now.set(k, v);
					return now;
				},
				{ replace: true },
			),
		[setSearch],
	);
	return { as: search.get("as") ?? "founder", open: search.get("open"), set };
}
