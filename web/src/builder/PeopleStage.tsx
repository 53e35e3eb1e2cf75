import { Check, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { type AccessCell, type AccessTable, type AppOut, type ExpectationList, type Sees, useOfApp } from "./api";
import { GateView } from "./people/GateView";
import { ProposeRules } from "./people/ProposeRules";
import { WhyView } from "./people/WhyView";
import { ErrorNote, Loading, Views } from "./ui";

const actions = [
	["see", "sees"],
	["add", "adds"],
	["change", "changes"],
	["delete", "deletes"],
] as const;

/** How far an action reaches, as a mark: filled for all, half for some, hollow for none. */
function Mark({ reach, what, tight }: { reach: string; what: string; tight?: boolean }) {
	const words = { all: "all", where: "some", own: "their own", none: "none" }[reach] ?? reach;
	return (
		<span className={`inline-grid justify-items-center ${tight ? "w-6" : "w-12"}`} title={`${what}: ${words}`}>
			<svg width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={`${what} ${words}`}>
				<rect x="1" y="1" width="10" height="10" rx="2" fill="none" stroke="currentColor" strokeWidth="1.5" />
				{reach === "all" && <rect x="1" y="1" width="10" height="10" rx="2" fill="currentColor" />}
				{reach === "where" && <path d="M1 11 11 1V11Z" fill="currentColor" />}
				{reach === "own" && <circle cx="6" cy="6" r="2.6" fill="currentColor" />}
			</svg>
		</span>
	);
}

const views = [
	["access", "Who can do what"],
	["gate", "Sign-in"],
	["why", "Why?"],
] as const;

/** The people of the app: what they may do, how they get in, and why. */
export function PeopleStage({ app, as, onRole }: { app: AppOut; as: string; onRole: (id: string) => void }) {
	const [view, setView] = useState<(typeof views)[number][0]>("access");
	const show = (role: string, line: string) => {
		onRole(role);
		requestAnimationFrame(() =>
			requestAnimationFrame(() =>
				document.querySelector(`[data-line="${CSS.escape(line)}"]`)?.scrollIntoView({ block: "center" }),
			),
		);
	};
	return (
		<>
			<Views views={views.filter(([id]) => id !== "gate" || app.member !== "viewer")} view={view} onView={setView} />
			<div className="flex-1 min-h-0 overflow-auto">
				{view === "access" && <Access app={app} as={as} onShow={show} />}
				{view === "gate" && <GateView app={app} />}
				{view === "why" && <WhyView app={app} as={as} onShow={show} />}
			</div>
		</>
	);
}

/** The access table: roles by tables and pages. */
function Access({ app, as, onShow: show }: { app: AppOut; as: string; onShow: (role: string, line: string) => void }) {
	const [proposing, setProposing] = useState("");
	const access = useOfApp<AccessTable>(app.id, "/access");
	const held = useOfApp<ExpectationList>(app.id, "/expectations");
	if (access.isError) return <ErrorNote error={access.error} retry={() => void access.refetch()} />;
	if (!access.data) return <Loading />;
	const { roles, tables, pages } = access.data;
	const broken = held.data?.expectations.some((e) => !e.holds);
	return (
		<div className="p-4">
			{proposing && <ProposeRules app={app} role={proposing} onClose={() => setProposing("")} />}
			{broken && <Expectations app={app.id} onShow={show} />}
			{as !== "founder" && <WhatTheySee app={app.id} as={as} />}
			<h2 className="font-display text-lg font-semibold">Who can do what</h2>
			<p className="text-soft mb-3 flex flex-wrap items-center gap-x-4 gap-y-1">
				<span>Each cell: see, add, change, delete.</span>
				<Key reach="all" words="all records" />
				<Key reach="own" words="their own" />
				<Key reach="where" words="where a condition is true" />
				<Key reach="none" words="none" />
			</p>
			<div className="overflow-auto max-h-[70vh] border border-line rounded-md bg-surface w-fit max-w-full">
				<table className="text-left" data-access>
					<thead className="sticky top-0 z-20 bg-surface shadow-[0_1px_0_var(--line)]">
						<tr className="border-b border-line">
							<th className="p-2 font-semibold sticky left-0 bg-surface z-10">Table</th>
							{roles?.map((r) => (
								<th
									key={r.id}
									className="p-2 font-semibold border-l border-line"
									style={{ boxShadow: `inset 0 3px 0 var(--role-${r.colour})` }}
								>
									{r.name}
									{r.people && app.member !== "viewer" && (
										<button
											type="button"
											className="link-button font-normal block whitespace-nowrap"
											onClick={() => setProposing(r.id)}
										>
											Propose rules
										</button>
									)}
								</th>
							))}
						</tr>
					</thead>
					<tbody>
						{tables?.map((t) => (
							<tr key={t.id} className="border-b border-line">
								<th className="p-2 font-medium whitespace-nowrap sticky left-0 bg-surface z-10">{t.name}</th>
								{t.cells?.map((c, i) => (
									<td key={c.line} className="border-l border-line p-0">
										<CellButton
											cell={c}
											title={`${roles?.[i]?.name} and ${t.name}`}
											tight={roles.length > tightFrom}
											onOpen={() => show(roles?.[i]?.id ?? "", c.line)}
										/>
									</td>
								))}
							</tr>
						))}
						<tr className="border-b border-line bg-raised">
							<th className="p-2 font-semibold" colSpan={(roles?.length ?? 0) + 1}>
								Pages they can open
							</th>
						</tr>
						{pages?.map((p) => (
							<tr key={p.id} className="border-b border-line">
								<th className="p-2 font-medium whitespace-nowrap sticky left-0 bg-surface z-10">{p.name}</th>
								{p.open?.map((o, i) => (
									<td key={roles?.[i]?.id} className={`border-l border-line p-2 ${o ? "" : "text-soft"}`}>
										{o ? "yes" : "no"}
									</td>
								))}
							</tr>
						))}
					</tbody>
				</table>
			</div>
			{!broken && <Expectations app={app.id} onShow={show} />}
		</div>
	);
}

/** How many records of each table the one as whom the app is seen sees. */
function WhatTheySee({ app, as }: { app: string; as: string }) {
	const sees = useOfApp<Sees>(app, "/sees", { as });
	if (sees.isError) return <ErrorNote error={sees.error} retry={() => void sees.refetch()} />;
	return (
		<section className="mb-6 grid gap-2">
			<h2 className="font-display text-lg font-semibold">What they see</h2>
			{!sees.data ? (
				<Loading />
			) : (
				<ul className="flex flex-wrap gap-2">
					{sees.data.tables.map((t) => (
						<li
							key={t.id}
							className={`border border-line rounded-md px-2.5 py-1 bg-surface ${t.seen === 0 ? "text-soft" : ""}`}
						>
							{t.name}: <strong>{t.seen.toLocaleString()}</strong> of {t.all.toLocaleString()}
						</li>
					))}
				</ul>
			)}
		</section>
	);
}

/** Expectations, tried in the draft: a version in which one does not is not published. */
function Expectations({ app, onShow }: { app: string; onShow: (role: string, line: string) => void }) {
	const list = useOfApp<ExpectationList>(app, "/expectations");
	return (
		<section className="my-6 first:mt-0 grid gap-2">
			<h2 className="font-display text-lg font-semibold">Expectations</h2>
			{list.isError ? (
				<ErrorNote error={list.error} retry={() => void list.refetch()} />
			) : !list.data ? (
				<Loading />
			) : list.data.expectations.length === 0 ? (
				<p className="text-soft">
					No expectations yet. Open a role on the left and say what its people must never do, such as seeing the boats
					of others. Pine Gate checks it here and before you publish.
				</p>
			) : (
				<ul className="grid gap-1">
					{list.data.expectations.map((e) => (
						<li key={e.id}>
							<button
								type="button"
								className={`w-full text-left flex gap-2 items-start p-2 rounded-md border ${e.holds ? "border-line bg-surface" : "note-bad border-transparent"}`}
								onClick={() => onShow(e.role, e.id)}
							>
								{e.holds ? (
									<Check size={16} className="text-pine shrink-0 mt-0.5" aria-hidden />
								) : (
									<TriangleAlert size={16} className="text-berry shrink-0 mt-0.5" aria-hidden />
								)}
								<span>
									{e.text}. {e.holds ? <span className="text-soft">Met.</span> : <strong>Not met: {e.reason}</strong>}
								</span>
							</button>
						</li>
					))}
				</ul>
			)}
		</section>
	);
}

function Key({ reach, words }: { reach: string; words: string }) {
	return (
		<span className="inline-flex items-center text-ink">
			<Mark reach={reach} what="reach" /> {words}
		</span>
	);
}

/** From how many roles on the cells stand closer. */
const tightFrom = 4;

interface CellProps {
	cell: AccessCell;
	title: string;
	tight: boolean;
	onOpen: () => void;
}

function CellButton({ cell, title, tight, onOpen }: CellProps) {
	return (
		<button
			type="button"
			className={`p-2 hover:bg-ground w-full text-left whitespace-nowrap ${cell.see === "none" && cell.add === "none" ? "text-soft" : "text-pine"}`}
			title={`${title}: show the sentence`}
			onClick={onOpen}
		>
			{actions.map(([key, what]) => (
				<Mark key={key} reach={cell[key]} what={what} tight={tight} />
			))}
		</button>
	);
}
