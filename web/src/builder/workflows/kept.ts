import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "../../shared/api/client";
import { appUrl, type Marks } from "../api";

const none: Marks = { breakpoints: [], off: [], watches: [] };

/** What a builder marked in a workflow, which is kept for them, and what changes it. */
export function useMarks(app: string, flow: string): [Marks, (change: Partial<Marks>) => void] {
	const client = useQueryClient();
	const queryKey = ["marks", app, flow];
	const url = appUrl(app, `/workflows/${flow}/marks`);
	const marks = useQuery({ queryKey, queryFn: () => request<Marks>("GET", url), staleTime: Number.POSITIVE_INFINITY });
	const keep = useMutation({ mutationFn: (to: Marks) => request<Marks>("PUT", url, to) });
	const now = marks.data ?? none;
	return [
		now,
		(change) => {
			const next = { ...now, ...change };
			client.setQueryData(queryKey, next);
			keep.mutate(next);
		},
	];
}
