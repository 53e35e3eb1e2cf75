import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ArrowRight, ExternalLink, LogOut, Mail, Plus, Trash2, User, Users } from "lucide-react";
import { type FormEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { request, withQuery, wordsOf } from "../shared/api/client";
import { useTitle } from "../shared/title";
import { say } from "../shared/words";
import { type AppSummary, useDo, useSession, type Workspace } from "./api";
import { Empty, ErrorNote, Loading, Modal, moment, Wordmark } from "./ui";

/** The home screen: a founder's apps. */
export function Workshop() {
	useTitle("Workshop", "Pine Gate");
	const apps = useQuery({ queryKey: ["apps"], queryFn: () => request<AppSummary[]>("GET", "/api/apps") });
	const session = useSession();
	const client = useQueryClient();
	const [making, setMaking] = useState(false);
	const leave = useMutation({
		mutationFn: () => request<void>("POST", "/api/sign-out"),
		onSuccess: () => client.resetQueries(),
	});
	return (
		<div className="min-h-dvh">
			<header className="bg-deep text-on-deep">
				<div className="max-w-5xl mx-auto flex items-center gap-4 px-6 h-14">
					<Wordmark />
					<Link to="/team" className="bar-btn ml-auto">
						<Users size={15} aria-hidden /> Team
					</Link>
					<Link to="/account" className="bar-btn" title="Your account">
						<User size={15} aria-hidden /> {session.data?.name}
					</Link>
					{session.data?.mailbox && (
						<Link to="/mailbox" className="bar-btn">
							<Mail size={15} aria-hidden /> Mailbox
						</Link>
					)}
					<button type="button" className="bar-btn" onClick={() => leave.mutate()}>
						<LogOut size={15} aria-hidden /> Sign out
					</button>
				</div>
			</header>
			<main className="max-w-5xl mx-auto px-6 py-10">
				<div className="flex items-end gap-4 mb-6">
					<div>
						<h1 className="font-display text-3xl font-semibold">Workshop</h1>
						<p className="text-soft mt-1">The apps you build. Open one to continue.</p>
					</div>
					<button type="button" className="btn btn-main ml-auto" onClick={() => setMaking(true)}>
						<Plus size={16} aria-hidden /> Create an empty app
					</button>
				</div>
				{apps.isError && <ErrorNote error={apps.error} retry={() => void apps.refetch()} />}
				{apps.isPending && <Loading />}
				{apps.data?.length === 0 && (
					<Empty title="No apps yet">
						<p>An app keeps records, lets people sign in, and shows each of them what is theirs.</p>
						<button type="button" className="btn btn-main" onClick={() => setMaking(true)}>
							Create your first app
						</button>
					</Empty>
				)}
				<ul className="grid gap-3">
					{apps.data?.map((a) => (
						<AppRow key={a.id} app={a} />
					))}
				</ul>
			</main>
			<Modal title="Create an empty app" open={making} onClose={() => setMaking(false)}>
				<NewApp />
			</Modal>
		</div>
	);
}

function AppRow({ app }: { app: AppSummary }) {
	return (
		<li className="bg-surface border border-line rounded-md p-5 flex items-center gap-6">
			<div className="flex-1 min-w-0">
				<Link to={`/apps/${app.id}/data`} className="font-display text-xl font-semibold hover:underline">
					{app.name}
				</Link>
				<p className="text-soft mt-1">
					{say("{n} table||{n} tables", { n: app.tables })}, {say("{n} page||{n} pages", { n: app.pages })}, created{" "}
					{moment(app.createdAt)}
					{app.member !== "owner" && `, you are ${app.member}`}
				</p>
			</div>
			<p className="w-60">
				{app.liveVersion === 0 ? (
					<span className="text-resin font-medium">Not published</span>
				) : (
					<>
						<a className="link inline-flex items-center gap-1" href={`/a/${app.slug}`} target="_blank" rel="noreferrer">
							Version {app.liveVersion} is live <ExternalLink size={14} aria-hidden />
						</a>
						{app.changed && <span className="block text-resin font-medium">Changes to publish</span>}
					</>
				)}
			</p>
			<Link to={`/apps/${app.id}/data`} className="btn">
				Open <ArrowRight size={15} aria-hidden />
			</Link>
			{app.member === "owner" && <RemoveApp app={app} />}
		</li>
	);
}

/** Deletes an app, whose name has to be typed to be sure. */
function RemoveApp({ app }: { app: AppSummary }) {
	const [asked, setAsked] = useState(false);
	const [name, setName] = useState("");
	const remove = useDo<void>(
		["apps"],
		() => request("DELETE", withQuery(`/api/apps/${app.id}`, { name })),
		() => setAsked(false),
	);
	const submit = (e: FormEvent) => {
		e.preventDefault();
		remove.mutate();
	};
	return (
		<>
			<button
				type="button"
				className="p-2 text-soft hover:text-berry"
				aria-label={`Delete ${app.name}`}
				title="Delete app"
				onClick={() => setAsked(true)}
			>
				<Trash2 size={16} />
			</button>
			<Modal title={`Delete ${app.name}`} open={asked} onClose={() => setAsked(false)}>
				<form className="grid gap-4" onSubmit={submit}>
					<p>This deletes the app and all its records, draft and live, permanently.</p>
					<label className="grid gap-1">
						<span className="font-medium">Type its name to confirm</span>
						<input className="input" value={name} onChange={(e) => setName(e.target.value)} />
					</label>
					{remove.isError && (
						<p role="alert" className="note-bad">
							{wordsOf(remove.error)}
						</p>
					)}
					<button type="submit" className="btn btn-danger" disabled={name !== app.name || remove.isPending}>
						Delete permanently
					</button>
				</form>
			</Modal>
		</>
	);
}

function NewApp() {
	const [name, setName] = useState("");
	const spaces = useQuery({ queryKey: ["workspaces"], queryFn: () => request<Workspace[]>("GET", "/api/workspaces") });
	const open = spaces.data?.filter((w) => w.role !== "viewer") ?? [];
	const [workspace, setWorkspace] = useState("");
	const navigate = useNavigate();
	const client = useQueryClient();
	const make = useMutation({
		mutationFn: () => request<AppSummary>("POST", "/api/apps", { name, workspace: workspace || open[0]?.id }),
		onSuccess: async (a) => {
			await client.invalidateQueries({ queryKey: ["apps"] });
			navigate(`/apps/${a.id}/data`);
		},
	});
	const submit = (e: FormEvent) => {
		e.preventDefault();
		make.mutate();
	};
	return (
		<form className="grid gap-4" onSubmit={submit}>
			<label className="grid gap-1">
				<span className="font-medium">Name</span>
				<input
					className="input"
					value={name}
					onChange={(e) => setName(e.target.value)}
					placeholder="For example Harbour Office"
				/>
			</label>
			{open.length > 1 && (
				<label className="grid gap-1">
					<span className="font-medium">Workspace</span>
					<select className="input" value={workspace || open[0]?.id} onChange={(e) => setWorkspace(e.target.value)}>
						{open.map((w) => (
							<option key={w.id} value={w.id}>
								{w.name}
							</option>
						))}
					</select>
				</label>
			)}
			{make.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(make.error)}
				</p>
			)}
			<button type="submit" className="btn btn-main" disabled={make.isPending}>
				Create app
			</button>
		</form>
	);
}
