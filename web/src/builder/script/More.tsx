import { Popover } from "radix-ui";
import { type KeyboardEvent, useRef, useState } from "react";
import { type Clause, type ClauseList, useOfApp } from "../api";
import { ErrorNote, Loading } from "../ui";
import { SettingForm } from "./SettingForm";

/** What else can be said of a thing: a searchable list, from which one goes on to the control. */
export function More({ app, of, about }: { app: string; of: string; about: string }) {
	const [open, setOpen] = useState(false);
	const [chosen, setChosen] = useState("");
	const close = () => {
		setOpen(false);
		setChosen("");
	};
	return (
		<Popover.Root open={open} onOpenChange={(o) => (o ? setOpen(true) : close())}>
			<Popover.Trigger className="more">
				and…<span className="sr-only"> more about {about}</span>
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					className="pop"
					align="start"
					sideOffset={4}
					collisionPadding={12}
					aria-label={`Say more about ${about}`}
				>
					{chosen ? (
						<SettingForm app={app} asked={{ of, name: chosen }} onDone={close} />
					) : (
						<Clauses app={app} of={of} onChoose={setChosen} />
					)}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

function Clauses({ app, of, onChoose }: { app: string; of: string; onChoose: (name: string) => void }) {
	const list = useOfApp<ClauseList>(app, "/clauses", { of });
	const [search, setSearch] = useState("");
	const ref = useRef<HTMLDivElement>(null);
	if (list.isError) return <ErrorNote error={list.error} />;
	if (!list.data) return <Loading />;
	const found = matching(list.data.clauses, search);
	// the arrows walk through what was found, Enter takes the first
	const keys = (e: KeyboardEvent) => {
		const buttons = [...(ref.current?.querySelectorAll("button") ?? [])];
		const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
		if (e.key === "ArrowDown") buttons[Math.min(at + 1, buttons.length - 1)]?.focus();
		else if (e.key === "ArrowUp" && at > 0) buttons[at - 1]?.focus();
		else if (e.key === "ArrowUp") ref.current?.querySelector("input")?.focus();
		else if (e.key === "Enter" && at < 0 && found[0]) onChoose(found[0].name);
		else return;
		e.preventDefault();
	};
	const groups = [...new Set(found.map((c) => c.group ?? ""))];
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the buttons inside are what is used
		<div ref={ref} className="grid gap-2" onKeyDown={keys}>
			{list.data.clauses.length > 5 && (
				<input
					className="input"
					aria-label="Search what can be said"
					placeholder="Search"
					// biome-ignore lint/a11y/noAutofocus: the list was opened to search in it
					autoFocus
					value={search}
					onChange={(e) => setSearch(e.target.value)}
				/>
			)}
			<div className="max-h-80 overflow-auto grid gap-2 content-start">
				{found.length === 0 && <p className="text-soft">Nothing matches “{search}”.</p>}
				{groups.map((g) => (
					<section key={g} aria-label={g || "Settings"}>
						{g && <h3 className="text-soft text-xs px-2">{g}</h3>}
						{found
							.filter((c) => (c.group ?? "") === g)
							.map((c) => (
								<button key={c.name} type="button" className="clause" onClick={() => onChoose(c.name)}>
									<span className="font-medium">{c.label}</span>
									{c.help && <span className="text-soft">{c.help}</span>}
								</button>
							))}
					</section>
				))}
			</div>
		</div>
	);
}

/** The clauses that have all words of a search. */
export function matching(clauses: Clause[], search: string): Clause[] {
	const words = search.toLowerCase().split(/\s+/).filter(Boolean);
	return clauses.filter((c) => {
		const text = `${c.label} ${c.help ?? ""} ${c.group ?? ""}`.toLowerCase();
		return words.every((w) => text.includes(w));
	});
}
