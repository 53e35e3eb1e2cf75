import { ChevronDown, Eye } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { type AppOut, type People, useOfApp } from "./api";
import { roleOf } from "./seen";

interface SeenAsProps {
	app: AppOut;
	as: string;
	onAs: (as: string) => void;
	open: boolean;
	onOpen: (open: boolean) => void;
}

/** Says as whom the app is seen, and lets one choose. */
export function SeenAs({ app, as, onAs, open, onOpen }: SeenAsProps) {
	const role = roleOf(app, as);
	const person = useOfApp<People>(app.id, "/people", { role: role?.id }, as.startsWith("person.") && Boolean(role));
	const name = person.data?.people?.find((p) => p.id === as.split(".")[2])?.label;
	const words = as === "founder" ? "you, the founder" : name ? `${name}, ${role?.name}` : (role?.name ?? "somebody");
	const pick = (v: string) => {
		onAs(v);
		onOpen(false);
	};
	return (
		<Popover.Root open={open} onOpenChange={onOpen}>
			<Popover.Trigger className="bar-btn border border-white/30 mr-2" id="seen-as">
				<Eye size={15} aria-hidden /> Seen as <strong className="font-semibold">{words}</strong>{" "}
				<ChevronDown size={14} aria-hidden />
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content className="pop" align="end" sideOffset={6} aria-label="Who the app is seen as">
					<p className="font-display font-semibold text-base">See the app as</p>
					<p className="text-soft mb-3">You get their menu, pages, records and fields.</p>
					<div className="grid gap-1">
						<Choice text="You, the founder: everything" on={as === "founder"} onPick={() => pick("founder")} />
						{app.roles?.map((r) => (
							<Choice
								key={r.id}
								text={r.id === "visitor" ? r.name : `${r.name}: any of them`}
								colour={r.colour}
								on={as === (r.id === "visitor" ? "visitor" : `role.${r.id}`)}
								onPick={() => pick(r.id === "visitor" ? "visitor" : `role.${r.id}`)}
							/>
						))}
					</div>
					<PersonPicker app={app} as={as} onPick={pick} />
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

function Choice({ text, colour, on, onPick }: { text: string; colour?: number; on: boolean; onPick: () => void }) {
	return (
		<button
			type="button"
			className={`text-left px-2 py-1.5 rounded-md flex items-center gap-2 hover:bg-ground ${on ? "bg-ground font-semibold" : ""}`}
			aria-pressed={on}
			onClick={onPick}
		>
			<span
				className="w-1 h-4 rounded-sm"
				style={{ background: colour === undefined ? "transparent" : `var(--role-${colour})` }}
			/>
			{text}
		</button>
	);
}

function PersonPicker({ app, as, onPick }: { app: AppOut; as: string; onPick: (as: string) => void }) {
	const roles = app.roles?.filter((r) => r.people) ?? [];
	const [role, setRole] = useState(roleOf(app, as)?.people ? (roleOf(app, as)?.id ?? "") : (roles[0]?.id ?? ""));
	const [search, setSearch] = useState("");
	const people = useOfApp<People>(app.id, "/people", { role, search }, role !== "");
	if (roles.length === 0)
		return (
			<p className="text-soft mt-3">
				To see it as one person, go to People and choose the table with the people of a role.
			</p>
		);
	return (
		<div className="mt-3 pt-3 border-t border-line grid gap-2">
			<p className="font-medium">Or as one person</p>
			<div className="grid grid-cols-2 gap-2">
				<select className="input" aria-label="Role" value={role} onChange={(e) => setRole(e.target.value)}>
					{roles.map((r) => (
						<option key={r.id} value={r.id}>
							{r.name}
						</option>
					))}
				</select>
				<input
					className="input"
					aria-label="Search people"
					placeholder="Search"
					value={search}
					onChange={(e) => setSearch(e.target.value)}
				/>
			</div>
			<div className="field-options" data-people>
				{people.data?.people?.map((p) => (
					<button
						key={p.id}
						type="button"
						aria-pressed={as === `person.${role}.${p.id}`}
						onClick={() => onPick(`person.${role}.${p.id}`)}
					>
						{p.label}
					</button>
				))}
				{people.data?.people?.length === 0 && <p className="p-2 text-soft">No matches.</p>}
			</div>
		</div>
	);
}
