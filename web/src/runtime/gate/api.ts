import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Problem, request } from "../../shared/api/client";
import type { components } from "../../shared/api/runtime.gen";
import { base, onStage } from "../place";

type Schemas = components["schemas"];
export type Gate = Schemas["GateOut"];
export type SignUp = Schemas["SignUpOut"];
export type Admitted = Schemas["Admitted"];
export type Setup = Schemas["Setup"];
export type Invitation = Schemas["InvitationOut"];
export type Ticket = Schemas["Ticket"];
export type Me = Schemas["Me"];
export type MyPart = Schemas["MyPart"];

/** Sends something to the gate. */
export const post = <T = void>(path: string, body?: unknown) => request<T>("POST", `${base}/-${path}`, body);

/** What the screens of the gate show. */
export const useGate = () =>
	useQuery({ queryKey: ["gate"], queryFn: () => request<Gate>("GET", `${base}/-/gate`), staleTime: 30_000 });

/** A way to get in. Whoever got in sees everything anew; who has a step to go sees that. */
export function useEntering<V>(
	send: (values: V) => Promise<Admitted>,
	onIn?: () => void,
	onRefused?: (why: string) => void,
) {
	const client = useQueryClient();
	return useMutation({
		mutationFn: send,
		onSuccess: async (a) => {
			if (a.next === "waiting" || a.recovery?.length) return;
			if (a.next === "in") onIn?.();
			await client.resetQueries();
		},
		onError: (e) => e instanceof Problem && e.status === 403 && onRefused?.(e.message),
	});
}

/** The address of a page to go to, from outside; the home page where it is none of this app. */
export function within(to: string | null | undefined): string {
	return to && /^\/(?![/\\])/.test(to) && !to.includes("\\") ? to : "/";
}

/** What stands behind the # of an address that was mailed. */
export const carried = () => new URLSearchParams(location.hash.slice(1));

/** What the stage wants to look at of a screen that would come later. */
export const wanted = () => (onStage ? new URLSearchParams(location.search).get("show") : null);
