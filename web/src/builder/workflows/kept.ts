import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "../../shared/api/client";
import { appUrl, type Marks } from "../api";

const none: Marks = { breakpoints: [], watches: [] };

/** What a builder marked in a workflow, which is kept for them: the ids of steps with breakpoints, or what they watch. */
export function useKept(app: string, flow: string, what: keyof Marks): [string[], (to: string[]) => void] {
	const client = useQueryClient();
	const queryKey = ["marks", app, flow];
	const url = appUrl(app, `/workflows/${flow}/marks`);
	const marks = useQuery({ queryKey, queryFn: () => request<Marks>("GET", url), staleTime: Number.POSITIVE_INFINITY });
	const keep = useMutation({ mutationFn: (to: Marks) => request<Marks>("PUT", url, to) });
	const now = marks.data ?? none;
	return [
		now[what],
		(to) => {
			const next = { ...now, [what]: to };
			client.setQueryData(queryKey, next);
			keep.mutate(next);
		},
	];
}
