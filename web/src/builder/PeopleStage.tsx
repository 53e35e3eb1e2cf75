import { type AccessCell, type AccessTable, type AppOut, useOfApp } from "./api";
import { ErrorNote, Loading } from "./ui";

const actions = [
	["see", "sees"],
	["add", "adds"],
	["change", "changes"],
	["delete", "deletes"],
] as const;

/** How far an action reaches, as a mark: filled for all, half for some, hollow for none. */
function Mark({ reach, what }: { reach: string; what: string }) {
	const words = { all: "all", where: "some", none: "none" }[reach] ?? reach;
	return (
		<span className="inline-grid justify-items-center w-12" title={`${what}: ${words}`}>
			<svg width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={`${what} ${words}`}>
				<rect x="1" y="1" width="10" height="10" rx="2" fill="none" stroke="currentColor" strokeWidth="1.5" />
				{reach === "all" && <rect x="1" y="1" width="10" height="10" rx="2" fill="currentColor" />}
				{reach === "where" && <path d="M1 11 11 1V11Z" fill="currentColor" />}
			</svg>
		</span>
	);
}

/** The access table: roles by tables and pages. */
export function PeopleStage({ app, onRole }: { app: AppOut; onRole: (id: string) => void }) {
	const access = useOfApp<AccessTable>(app.id, "/access");
	if (access.isError) return <ErrorNote error={access.error} retry={() => void access.refetch()} />;
	if (!access.data) return <Loading />;
	const { roles, tables, pages } = access.data;
	const show = (role: string, line: string) => {
		onRole(role);
		requestAnimationFrame(() =>
			requestAnimationFrame(() =>
				document.querySelector(`[data-line="${CSS.escape(line)}"]`)?.scrollIntoView({ block: "center" }),
			),
		);
	};
	return (
		<div className="overflow-auto p-4">
			<h2 className="font-display text-lg font-semibold">Who may do what</h2>
			<p className="text-soft mb-3 flex flex-wrap items-center gap-x-4 gap-y-1">
				<span>Each cell: sees, adds, changes, deletes.</span>
				<Key reach="all" words="all records" />
				<Key reach="where" words="those where a condition holds" />
				<Key reach="none" words="none" />
			</p>
			<table className="bg-surface border border-line rounded-md text-left">
				<thead>
					<tr className="border-b border-line">
						<th className="p-2 font-semibold">Table</th>
						{roles?.map((r) => (
							<th
								key={r.id}
								className="p-2 font-semibold border-l border-line"
								style={{ boxShadow: `inset 0 3px 0 var(--role-${r.colour})` }}
							>
								{r.name}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{tables?.map((t) => (
						<tr key={t.id} className="border-b border-line">
							<th className="p-2 font-medium whitespace-nowrap">{t.name}</th>
							{t.cells?.map((c, i) => (
								<td key={c.line} className="border-l border-line p-0">
									<CellButton
										cell={c}
										title={`${roles?.[i]?.name} and ${t.name}`}
										onOpen={() => show(roles?.[i]?.id ?? "", c.line)}
									/>
								</td>
							))}
						</tr>
					))}
					<tr className="border-b border-line bg-raised">
						<th className="p-2 font-semibold" colSpan={(roles?.length ?? 0) + 1}>
							Pages that are open to them
						</th>
					</tr>
					{pages?.map((p) => (
						<tr key={p.id} className="border-b border-line">
							<th className="p-2 font-medium whitespace-nowrap">{p.name}</th>
							{p.open?.map((o, i) => (
								<td key={roles?.[i]?.id} className={`border-l border-line p-2 ${o ? "" : "text-soft"}`}>
									{o ? "open" : "closed"}
								</td>
							))}
						</tr>
					))}
				</tbody>
			</table>
		</div>
	);
}

function Key({ reach, words }: { reach: string; words: string }) {
	return (
		<span className="inline-flex items-center text-ink">
			<Mark reach={reach} what="reach" /> {words}
		</span>
	);
}

function CellButton({ cell, title, onOpen }: { cell: AccessCell; title: string; onOpen: () => void }) {
	return (
		<button
			type="button"
			className={`p-2 hover:bg-ground w-full text-left ${cell.see === "none" && cell.add === "none" ? "text-soft" : "text-pine"}`}
			title={`${title}: show the sentence`}
			onClick={onOpen}
		>
			{actions.map(([key, what]) => (
				<Mark key={key} reach={cell[key]} what={what} />
			))}
		</button>
	);
}
