import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { Link } from "react-router";
import { request, wordsOf } from "../../shared/api/client";
import { useTitle } from "../../shared/title";
import { type Account as AccountData, type Recovery, type Setup, useDo } from "../api";
import { ErrorNote, Loading, moment, Wordmark } from "../ui";
import { Input } from "./SignIn";

/** A page of the builder outside of an app. */
export function Outside({ title, text, children }: { title: string; text: string; children: ReactNode }) {
	useTitle(title, "Pine Gate");
	return (
		<div className="min-h-dvh">
			<header className="bg-deep text-on-deep">
				<div className="max-w-5xl mx-auto flex items-center gap-4 px-6 h-14">
					<Link to="/" aria-label="Pine Gate: workshop">
						<Wordmark />
					</Link>
				</div>
			</header>
			<main className="max-w-3xl mx-auto px-6 py-8 grid grid-cols-[minmax(0,1fr)] gap-6">
				<div>
					<h1 className="font-display text-3xl font-semibold">{title}</h1>
					<p className="text-soft mt-1">{text}</p>
				</div>
				{children}
			</main>
		</div>
	);
}

/** A part of such a page. */
export function Card({ title, children }: { title: string; children: ReactNode }) {
	return (
		<section className="bg-surface border border-line rounded-md p-5 grid grid-cols-[minmax(0,1fr)] gap-3">
			<h2 className="font-display text-lg font-semibold">{title}</h2>
			{children}
		</section>
	);
}

/** What went wrong. */
export function Trouble({ error }: { error: unknown }) {
	return error ? (
		<p role="alert" className="note-bad">
			{wordsOf(error)}
		</p>
	) : null;
}

/** A builder's own account. */
export function Account() {
	const account = useQuery({
		queryKey: ["account"],
		queryFn: () => request<AccountData>("GET", "/api/account"),
	});
	if (account.isError) return <ErrorNote error={account.error} retry={() => void account.refetch()} />;
	if (!account.data) return <Loading />;
	return (
		<Outside title="Your account" text={`${account.data.name}, ${account.data.email}`}>
			<Password />
			<Authenticator on={account.data.authenticator} />
			<Sessions account={account.data} />
		</Outside>
	);
}

const sending = (send: () => void) => (e: FormEvent) => {
	e.preventDefault();
	send();
};

function Password() {
	const [old, setOld] = useState("");
	const [next, setNext] = useState("");
	const save = useDo<void>(
		["account"],
		() => request("POST", "/api/account/password", { old, new: next }),
		() => {
			setOld("");
			setNext("");
		},
	);
	return (
		<Card title="Password">
			<form className="grid gap-3 max-w-sm" onSubmit={sending(() => save.mutate())}>
				<Trouble error={save.error} />
				{save.isSuccess && (
					<p role="status" className="note-good">
						Your password is changed. You are signed out everywhere else.
					</p>
				)}
				<Input label="Current password" type="password" autoComplete="current-password" value={old} onChange={setOld} />
				<Input
					label="New password"
					type="password"
					autoComplete="new-password"
					value={next}
					onChange={setNext}
					help="At least 10 characters."
				/>
				<button type="submit" className="btn justify-self-start" disabled={save.isPending}>
					Change password
				</button>
			</form>
		</Card>
	);
}

function Authenticator({ on }: { on: boolean }) {
	const [code, setCode] = useState("");
	const setup = useMutation({ mutationFn: () => request<Setup>("POST", "/api/account/authenticator") });
	const [kept, setKept] = useState<string[]>([]);
	const use = useDo<void>(
		["account"],
		async () => setKept((await request<Recovery>("POST", "/api/account/authenticator/use", { code })).codes),
		() => {
			setCode("");
			setup.reset();
		},
	);
	const drop = useDo<void>(
		["account"],
		() => request("POST", "/api/account/authenticator/drop", { code }),
		() => setCode(""),
	);
	return (
		<Card title="Authenticator app">
			<Trouble error={use.error ?? drop.error ?? setup.error} />
			{kept.length > 0 && (
				<div className="note-good grid gap-2">
					<p>Keep these recovery codes. Each signs you in once if you lose the app. They are shown only now.</p>
					<ul className="grid grid-cols-2 gap-1 font-mono" data-recovery>
						{kept.map((c) => (
							<li key={c}>{c}</li>
						))}
					</ul>
				</div>
			)}
			{on ? (
				<form className="grid gap-3 max-w-sm" onSubmit={sending(() => drop.mutate())}>
					<p>Signing in asks for a code from your authenticator app.</p>
					<Input label="Code, to turn it off" autoComplete="one-time-code" value={code} onChange={setCode} />
					<button type="submit" className="btn justify-self-start" disabled={drop.isPending}>
						Turn off
					</button>
				</form>
			) : setup.data ? (
				<form className="grid gap-3 max-w-sm" onSubmit={sending(() => use.mutate())}>
					<p>Scan this with an authenticator app, or type the key, and enter the code that it shows.</p>
					<img
						src={setup.data.image}
						alt="The key as a code to scan"
						width={216}
						height={216}
						className="bg-white p-2 border border-line rounded-md"
					/>
					<p className="break-all">
						Key: <code data-secret>{setup.data.secret}</code>
					</p>
					<Input label="Code from the app" autoComplete="one-time-code" value={code} onChange={setCode} />
					<button type="submit" className="btn btn-main justify-self-start" disabled={use.isPending}>
						Set up
					</button>
				</form>
			) : (
				<>
					<p className="text-soft">A code from an app on your phone, asked after the password, keeps others out.</p>
					<button type="button" className="btn justify-self-start" onClick={() => setup.mutate()}>
						Set up authenticator
					</button>
				</>
			)}
		</Card>
	);
}

function Sessions({ account }: { account: AccountData }) {
	const end = useDo<string>(["account"], (id) => request("POST", "/api/account/sessions/end", { id: id || undefined }));
	return (
		<Card title="Where you are signed in">
			<Trouble error={end.error} />
			<ul className="grid gap-2">
				{account.sessions.map((s) => (
					<li key={s.id} className="flex gap-3 items-center justify-between">
						<span className="min-w-0">
							<span className="block truncate">{s.agent || "A browser"}</span>
							<span className="text-soft">
								Since {moment(s.since)}
								{s.here && ", this one"}
							</span>
						</span>
						{!s.here && (
							<button type="button" className="btn" onClick={() => end.mutate(s.id)}>
								Sign out
							</button>
						)}
					</li>
				))}
			</ul>
			{account.sessions.length > 1 && (
				<button type="button" className="btn justify-self-start" onClick={() => end.mutate("")}>
					Sign out everywhere else
				</button>
			)}
		</Card>
	);
}
