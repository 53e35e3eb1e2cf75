import { useState } from "react";
import { toast } from "sonner";
import { request, wordsOf } from "../../shared/api/client";
import { type AppOut, appUrl, type GateState, type People, useDo, useOfApp } from "../api";
import { Confirm, moment } from "../ui";
import { PageReasons } from "./PageReasons";

const visitor = { as: "live.visitor", label: "a visitor" };

/** The live app as one of its people gets it. Looking is written down; nothing can be changed unless that is switched on. */
export function LiveLook({ app, page }: { app: AppOut; page: string }) {
	const [why, setWhy] = useState(false);
	const roles = app.roles.filter((r) => r.people);
	const [role, setRole] = useState(roles[0]?.id ?? "");
	const [search, setSearch] = useState("");
	const [{ as, label }, setWho] = useState(visitor);
	const people = useOfApp<People>(app.id, "/people", { role, search, live: "true" }, role !== "");
	const found = (people.data?.people ?? []).map((p) => ({ as: `live.person.${role}.${p.id}`, label: p.label }));
	if (app.liveVersion === 0)
		return <p className="p-4 text-soft">The app is not published yet, so there is no live app to see.</p>;
	return (
		<div className="flex-1 min-h-0 flex flex-col gap-2 p-3">
			<div className="flex flex-wrap gap-2 items-end">
				<label className="grid gap-1">
					<span className="font-medium">See the live app as</span>
					<select
						className="input !w-44"
						value={role}
						onChange={(e) => {
							setRole(e.target.value);
							setWho(visitor);
						}}
					>
						{roles.map((r) => (
							<option key={r.id} value={r.id}>
								one of {r.name}
							</option>
						))}
					</select>
				</label>
				<input
					className="input !w-40"
					aria-label="Search people in the live app"
					placeholder="Search"
					value={search}
					onChange={(e) => setSearch(e.target.value)}
				/>
				<select
					className="input !w-52"
					aria-label="Person"
					value={as}
					onChange={(e) => setWho({ as: e.target.value, label: e.target.selectedOptions[0]?.text ?? "" })}
				>
					{/* whoever is looked at stands there also when a search does not find them */}
					{[visitor, ...found.filter((p) => p.as !== as), ...(as === visitor.as ? [] : [{ as, label }])].map((p) => (
						<option key={p.as} value={p.as}>
							{p.label}
						</option>
					))}
				</select>
				<button type="button" className="btn" aria-pressed={why} onClick={() => setWhy(!why)}>
					Why?
				</button>
				<Acting app={app} as={as} />
			</div>
			{why && (
				<div className="max-h-[45%] overflow-auto border border-line rounded-md p-3 shrink-0">
					<PageReasons app={app} as={as} page={page} />
				</div>
			)}
			<p className="text-soft">These are live records. The team’s activity shows that you looked.</p>
			<iframe
				key={as}
				src={`/stage/${app.id}/${as}/`}
				title="The live app"
				className="bg-white border border-line rounded-md flex-1 w-full"
			/>
		</div>
	);
}

/** Switches acting on for a while, for owners. */
function Acting({ app, as }: { app: AppOut; as: string }) {
	const state = useOfApp<GateState>(app.id, "/gate");
	const [asked, setAsked] = useState(false);
	const set = useDo<string>(["app", app.id], (who) => request("POST", appUrl(app.id, "/acting"), { as: who }));
	if (app.member !== "owner" || as === visitor.as) return null;
	const fail = { onError: (e: unknown) => toast.error(wordsOf(e)) };
	const on = state.data?.acting?.as === as;
	return (
		<>
			<button type="button" className="btn" onClick={() => (on ? set.mutate("", fail) : setAsked(true))}>
				{on ? "Stop acting" : "Act as them …"}
			</button>
			{on && (
				<span className="text-resin font-medium">You act as them until {moment(state.data?.acting?.until ?? "")}.</span>
			)}
			{asked && (
				<Confirm
					text="For 15 minutes you can do what they can do in the live app. The history of each record shows that it was you, acting as them."
					label="Act as them"
					onNo={() => setAsked(false)}
					onYes={() => {
						set.mutate(as, fail);
						setAsked(false);
					}}
				/>
			)}
		</>
	);
}
