import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ArrowRight, ExternalLink, LogOut, Mail, Plus } from "lucide-react";
import { type FormEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { request, wordsOf } from "../shared/api/client";
import { type AppSummary, useSession } from "./api";
import { Empty, ErrorNote, Loading, Modal, moment, Wordmark } from "./ui";

/** The home screen: a founder's apps. */
export function Workshop() {
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
					<span className="ml-auto opacity-85">{session.data?.name}</span>
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
						<p className="text-soft mt-1">Every app that you build. Open one to go on with it.</p>
					</div>
					<button type="button" className="btn btn-main ml-auto" onClick={() => setMaking(true)}>
						<Plus size={16} aria-hidden /> New empty app
					</button>
				</div>
				{apps.isError && <ErrorNote error={apps.error} retry={() => void apps.refetch()} />}
				{apps.isPending && <Loading />}
				{apps.data?.length === 0 && (
					<Empty title="No apps yet">
						<p>An app keeps records, lets people sign in and shows each of them what is theirs.</p>
						<button type="button" className="btn btn-main" onClick={() => setMaking(true)}>
							Make the first one
						</button>
					</Empty>
				)}
				<ul className="grid gap-3">
					{apps.data?.map((a) => (
						<AppRow key={a.id} app={a} />
					))}
				</ul>
			</main>
			<Modal title="New empty app" open={making} onClose={() => setMaking(false)}>
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
					{app.tables} tables, {app.pages} pages, made {moment(app.createdAt)}
				</p>
			</div>
			<p className="w-60">
				{app.liveVersion === 0 ? (
					<span className="text-resin font-medium">Not published yet</span>
				) : (
					<>
						<a className="link inline-flex items-center gap-1" href={`/a/${app.slug}`} target="_blank" rel="noreferrer">
							Version {app.liveVersion} is live <ExternalLink size={14} aria-hidden />
						</a>
						{app.changed && <span className="block text-resin font-medium">The draft has changes</span>}
					</>
				)}
			</p>
			<Link to={`/apps/${app.id}/data`} className="btn">
				Open <ArrowRight size={15} aria-hidden />
			</Link>
		</li>
	);
}

function NewApp() {
	const [name, setName] = useState("");
	const navigate = useNavigate();
	const client = useQueryClient();
	const make = useMutation({
		mutationFn: () => request<AppSummary>("POST", "/api/apps", { name }),
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
				<span className="font-medium">What is it called?</span>
				<input
					className="input"
					value={name}
					onChange={(e) => setName(e.target.value)}
					placeholder="Such as Harbour Office"
				/>
			</label>
			{make.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(make.error)}
				</p>
			)}
			<button type="submit" className="btn btn-main" disabled={make.isPending}>
				Make the app
			</button>
		</form>
	);
}
