import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import type { components } from "../shared/api/builder.gen";
import { request, withQuery, wordsOf } from "../shared/api/client";

type Schemas = components["schemas"];
export type Session = Schemas["Session"];
export type AppSummary = Schemas["AppSummary"];
export type AppOut = Schemas["AppOut"];
export type TableOut = Schemas["TableOut"];
export type FieldOut = Schemas["FieldOut"];
export type RoleOut = Schemas["RoleOut"];
export type Line = Schemas["Line"];
export type Part = Schemas["Part"];
export type Setting = Schemas["Setting"];
export type Slot = Schemas["Slot"];
export type Clause = Schemas["Clause"];
export type ClauseList = Schemas["ClauseList"];
export type MergeList = Schemas["MergeList"];
export type CountList = Schemas["CountList"];
export type Scope = Schemas["Scope"];
export type Verdict = Schemas["Verdict"];
export type NameHelp = Schemas["NameHelp"];
export type Group = { any: boolean; rows: PlainRow[] };
export type PlainRow = { field?: string; relation?: string; value?: string; group?: Group };
export type Script = Schemas["Script"];
export type Grid = Schemas["Grid"];
export type BulkOut = Schemas["BulkOut"];
export type TotalsOut = Schemas["TotalsOut"];
export type ViewOut = Schemas["ViewOut"];
export type ViewList = Schemas["ViewList"];
export type ViewSettings = Schemas["ViewSettings"];
export type Bin = Schemas["Bin"];
export type Past = Schemas["Past"];
export type Proposal = Schemas["Proposal"];
export type Tally = Schemas["Tally"];
export type SheetTally = Tally["sheets"][number];
export type SheetPlan = Proposal["sheets"][number];
export type ColumnPlan = SheetPlan["columns"][number];
export type Aside = Schemas["Aside"];
export type Leftovers = Schemas["Leftovers"];
export type ImportStatus = Schemas["Status"];
export type Written = Schemas["Written"];
export type AccessTable = Schemas["AccessTable"];
export type AccessCell = Schemas["AccessCell"];
export type Plan = Schemas["Plan"];
export type ExpectationList = Schemas["ExpectationList"];
export type WhoSees = Schemas["WhoSees"];
export type RoleSees = Schemas["RoleSees"];
export type Sees = Schemas["Sees"];
export type Effects = Schemas["Effects"];
export type Difference = Schemas["Difference"];
export type VersionOut = Schemas["VersionOut"];
export type ActivityOut = Schemas["ActivityOut"];
export type MailOut = Schemas["MailOut"];
export type People = Schemas["People"];
export type OptionList = Schemas["OptionList"];
export type Revised = Schemas["Revised"];
export type GateState = Schemas["GateState"];
export type Why = Schemas["Why"];
export type PageWhy = Schemas["PageWhy"];
export type WorkflowOut = Schemas["WorkflowOut"];
export type RunList = Schemas["RunList"];
export type ServiceOut = Schemas["ServiceOut"];
export type ServiceList = Schemas["ServiceList"];
export type CallOut = Schemas["CallOut"];
export type Trial = Schemas["Trial"];
export type AddressOut = Schemas["AddressOut"];
export type WantList = Schemas["WantList"];
export type Marks = Schemas["Marks"];
export type RunOut = Schemas["RunOut"];
export type RunWhole = Schemas["RunWhole"];
export type Rehearsal = Schemas["Rehearsal"];
export type LetterList = Schemas["LetterList"];
export type WatchOut = Schemas["WatchOut"];
export type LetterOut = Schemas["LetterOut"];
export type CouldList = Schemas["CouldList"];
export type Told = Schemas["Told"];
export type RuleProposal = Schemas["RuleProposal"];
export type PageProposal = Schemas["PageProposal"];
export type Ticket = Schemas["Ticket"];
export type Account = Schemas["AccountOut"];
export type Setup = Schemas["Setup"];
export type Recovery = Schemas["Recovery"];
export type Workspace = Schemas["WorkspaceOut"];
export type Team = Schemas["TeamOut"];
export type Joining = Schemas["JoiningOut"];

/** A change to the app, as the server made it ready in a sentence or as written here. */
export type Change = { kind: string; [slot: string]: unknown };

export const appUrl = (app: string, rest = "") => `/api/apps/${app}${rest}`;

export const useSession = () =>
	useQuery({ queryKey: ["session"], queryFn: () => request<Session>("GET", "/api/session") });

export const useApp = (app: string) =>
	useQuery({ queryKey: ["app", app], queryFn: () => request<AppOut>("GET", appUrl(app)) });

/** Reads something of an app; everything read so is read anew when the app changes. */
export function useOfApp<T>(
	app: string,
	rest: string,
	params: Record<string, string | number | undefined> = {},
	enabled = true,
) {
	const url = withQuery(appUrl(app, rest), params);
	return useQuery({ queryKey: ["app", app, url], queryFn: () => request<T>("GET", url), enabled });
}

/** Reads an app anew after it changed. */
export function useRefresh(app: string) {
	const client = useQueryClient();
	return () => client.invalidateQueries({ queryKey: ["app", app] });
}

/** Makes changes to the app. */
export function useChange(app: string) {
	const refresh = useRefresh(app);
	return useMutation({
		mutationFn: (changes: Change[]) => request<Revised>("POST", appUrl(app, "/changes"), { changes }),
		onSuccess: refresh,
	});
}

/** Walks back and forth along what was done. */
export function useWalk(app: string, way: "undo" | "redo") {
	const refresh = useRefresh(app);
	return useMutation({
		mutationFn: () => request<Revised>("POST", appUrl(app, `/${way}`)),
		onSuccess: async (r) => {
			await refresh();
			toast.success(`${way === "undo" ? "Undone" : "Redone"}: ${r.sentences?.join(", ")}`);
		},
		onError: (e) => toast.error(wordsOf(e)),
	});
}

/** Takes back what one did since an activity. */
export function useDiscard(app: string) {
	const refresh = useRefresh(app);
	return useMutation({
		mutationFn: (since: number) => request<Revised>("POST", appUrl(app, "/discard"), { since }),
		onSettled: refresh,
		onSuccess: (r) => toast.success(`Discarded: ${r.sentences?.join(", ")}`),
		onError: (e) => toast.error(wordsOf(e), { duration: 10_000 }),
	});
}

/** Asks for something to be done that changes what is read with the keys. */
export function useDo<V>(keys: string[], send: (v: V) => Promise<unknown>, onDone?: () => void) {
	const client = useQueryClient();
	return useMutation({
		mutationFn: send,
		onSuccess: async () => {
			await client.invalidateQueries({ queryKey: keys });
			onDone?.();
		},
	});
}
