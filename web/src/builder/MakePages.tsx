import { useQuery } from "@tanstack/react-query";
import { Files } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { request, withQuery, wordsOf } from "../shared/api/client";
import { say } from "../shared/words";
import { type AppOut, appUrl, type PageProposal, type Revised, useDo } from "./api";
import { ErrorNote, Loading, Modal } from "./ui";

type Offered = PageProposal["pages"][number];

/** Offers pages that come of the tables, to be made whole or in parts. */
export function MakePages({ app }: { app: AppOut }) {
	const [open, setOpen] = useState(false);
	if (!app.tables?.length) return null;
	return (
		<>
			<button
				type="button"
				className="m-3 mb-0 btn inline-flex items-center gap-1.5"
				title="Pages for each role, by what its rules let it do"
				onClick={() => setOpen(true)}
			>
				<Files size={15} aria-hidden /> Make pages from tables
			</button>
			{open && <Offer app={app} onClose={() => setOpen(false)} />}
		</>
	);
}

function Offer({ app, onClose }: { app: AppOut; onClose: () => void }) {
	const [tables, setTables] = useState(() => app.tables.map((t) => t.id));
	const [roles, setRoles] = useState(() => app.roles.map((r) => r.id));
	const [left, setLeft] = useState<string[]>([]); // what is not wanted
	const url = appUrl(app.id, "/pages/proposal");
	const offered = useQuery({
		queryKey: ["app", app.id, "pages/proposal", tables, roles, app.revision],
		queryFn: () => request<PageProposal>("GET", withQuery(url, { tables: tables.join(","), roles: roles.join(",") })),
	});
	const pages = offered.data?.pages ?? [];
	const take = pages.filter((p) => !left.includes(p.id)).map((p) => p.id);
	const make = useDo<void>(
		["app", app.id],
		() => request<Revised>("POST", url, { tables, roles, take }),
		() => {
			toast.success(`${say("{n} page is made||{n} pages are made", { n: take.length })}. Undo takes all of it back.`);
			onClose();
		},
	);
	return (
		<Modal title="Make pages from tables" open onClose={onClose} wide>
			<div className="grid gap-4">
				<p className="text-soft">
					Each role gets pages for what its rules let it see, add and change. Leave out what you don’t want; you can
					change everything afterwards.
				</p>
				<Choice
					title="Tables"
					all={app.tables.map((t) => ({ id: t.id, name: t.name }))}
					chosen={tables}
					onChange={setTables}
				/>
				<Choice
					title="Roles"
					all={app.roles.map((r) => ({ id: r.id, name: r.name }))}
					chosen={roles}
					onChange={setRoles}
				/>
				{offered.isError ? (
					<ErrorNote error={offered.error} />
				) : offered.isPending ? (
					<Loading />
				) : pages.length === 0 ? (
					<p className="note">
						There is nothing to make. Either these roles have all these pages already, or no rule lets them see the
						tables: give them access under People first.
					</p>
				) : (
					<Pages pages={pages} left={left} onLeft={setLeft} />
				)}
				{make.isError && (
					<p role="alert" className="note-bad">
						{wordsOf(make.error)}
					</p>
				)}
				<div className="flex justify-end gap-2">
					<button type="button" className="btn" onClick={onClose}>
						Cancel
					</button>
					<button
						type="button"
						className="btn btn-main"
						disabled={take.length === 0 || make.isPending}
						onClick={() => make.mutate()}
					>
						{make.isPending ? "Making …" : say("Make pages||Make {n} page||Make {n} pages", { n: take.length })}
					</button>
				</div>
			</div>
		</Modal>
	);
}

interface ChoiceProps {
	title: string;
	all: { id: string; name: string }[];
	chosen: string[];
	onChange: (ids: string[]) => void;
}

/** Some of several things, side by side. */
function Choice({ title, all, chosen, onChange }: ChoiceProps) {
	const toggle = (id: string) =>
		onChange(all.map((x) => x.id).filter((x) => (x === id ? !chosen.includes(x) : chosen.includes(x))));
	return (
		<fieldset>
			<legend className="font-semibold mb-1">{title}</legend>
			<div className="flex flex-wrap gap-x-4 gap-y-1">
				{all.map((x) => (
					<label key={x.id} className="inline-flex items-center gap-1.5">
						<input
							type="checkbox"
							className="size-4 accent-(--pine)"
							checked={chosen.includes(x.id)}
							onChange={() => toggle(x.id)}
						/>
						{x.name}
					</label>
				))}
				{all.length > 3 && (
					<button
						type="button"
						className="link"
						onClick={() => onChange(chosen.length === all.length ? [] : all.map((x) => x.id))}
					>
						{chosen.length === all.length ? "None" : "All"}
					</button>
				)}
			</div>
		</fieldset>
	);
}

function Pages({ pages, left, onLeft }: { pages: Offered[]; left: string[]; onLeft: (ids: string[]) => void }) {
	return (
		<ul className="grid gap-1 border-y border-line py-2 max-h-[38vh] overflow-auto" aria-label="Pages that are offered">
			{pages.map((p) => (
				<li key={p.id}>
					<label className="flex gap-2 items-start py-0.5">
						<input
							type="checkbox"
							className="size-4 mt-1 accent-(--pine)"
							checked={!left.includes(p.id)}
							onChange={(e) => onLeft(e.target.checked ? left.filter((x) => x !== p.id) : [...left, p.id])}
						/>
						<span>
							<b className="font-semibold">{p.name}</b> <span className="text-soft">{p.text}</span>
						</span>
					</label>
				</li>
			))}
		</ul>
	);
}
