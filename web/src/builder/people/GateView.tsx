import { useState } from "react";
import { toast } from "sonner";
import { request, wordsOf } from "../../shared/api/client";
import { type AppOut, appUrl, type GateState, useDo, useOfApp } from "../api";
import { ErrorNote, Loading, moment } from "../ui";

const screens = [
	["sign-in", "Signing in"],
	["sign-in?show=code", "Entering a code"],
	["sign-in?show=refusal", "Refused"],
	["sign-up", "Signing up"],
	["sign-up?show=waiting", "Waiting for approval"],
	["reset", "Setting a password"],
] as const;

/** The screens of the gate in the draft, and what happens at the gate of the live app. */
export function GateView({ app }: { app: AppOut }) {
	const state = useOfApp<GateState>(app.id, "/gate");
	if (state.isError) return <ErrorNote error={state.error} retry={() => void state.refetch()} />;
	if (!state.data) return <Loading />;
	return (
		<div className="grid gap-7 p-4 content-start">
			<Waiting app={app.id} state={state.data} />
			<Screens app={app} />
			<Mails app={app.id} state={state.data} />
			<Sender app={app.id} state={state.data} />
			<Invite app={app.id} state={state.data} />
			<Help app={app.id} />
			<Log state={state.data} />
		</div>
	);
}

function Screens({ app }: { app: AppOut }) {
	const [screen, setScreen] = useState<string>("sign-in");
	return (
		<section className="grid gap-2">
			<h2 className="font-display text-lg font-semibold">How it looks</h2>
			<div className="flex gap-1">
				{screens.map(([path, words]) => (
					<button
						key={path}
						type="button"
						className={`px-2 py-1 rounded-md ${screen === path ? "bg-surface font-semibold" : "text-soft"}`}
						aria-pressed={screen === path}
						onClick={() => setScreen(path)}
					>
						{words}
					</button>
				))}
			</div>
			<iframe
				key={`${screen} ${app.revision}`}
				src={`/stage/${app.id}/visitor/~/${screen}`}
				title="A sign-in page"
				className="bg-white border border-line rounded-md w-full h-[30rem]"
			/>
		</section>
	);
}

function Waiting({ app, state }: { app: string; state: GateState }) {
	const decide = useDo<{ id: string; let: boolean }>(["app", app], (v) =>
		request("POST", appUrl(app, `/waiting/${v.id}`), { let: v.let }),
	);
	if (state.waiting.length === 0) return null;
	return (
		<section className="grid gap-2">
			<h2 className="font-display text-lg font-semibold">Waiting for approval</h2>
			{decide.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(decide.error)}
				</p>
			)}
			<ul className="grid gap-2">
				{state.waiting.map((w) => (
					<li key={w.id} className="bg-surface border border-line rounded-md p-3 flex gap-4 items-start">
						<span className="flex-1">
							<strong>{w.email}</strong> for {w.role}, {moment(w.at)}
							<span className="block text-soft">{w.answers.map((a) => `${a.name}: ${a.value}`).join(" · ")}</span>
						</span>
						<button type="button" className="btn btn-main" onClick={() => decide.mutate({ id: w.id, let: true })}>
							Approve
						</button>
						<button type="button" className="btn" onClick={() => decide.mutate({ id: w.id, let: false })}>
							Decline
						</button>
					</li>
				))}
			</ul>
		</section>
	);
}

function Mails({ app, state }: { app: string; state: GateState }) {
	const [mail, setMail] = useState("code");
	const send = useDo<void>(
		["mails"],
		() => request("POST", appUrl(app, "/mail-trials"), { mail }),
		() => toast.success("Email sent to you."),
	);
	return (
		<section className="grid gap-2 justify-items-start">
			<h2 className="font-display text-lg font-semibold">Try the emails</h2>
			<p className="text-soft">We’ll send it to your own email, as worded in the draft.</p>
			{send.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(send.error)}
				</p>
			)}
			<div className="flex gap-2">
				<select className="input !w-80" aria-label="Email" value={mail} onChange={(e) => setMail(e.target.value)}>
					{state.mails.map((m) => (
						<option key={m.id} value={m.id}>
							{m.label}
						</option>
					))}
				</select>
				<button type="button" className="btn" disabled={send.isPending} onClick={() => send.mutate()}>
					Send to me
				</button>
			</div>
		</section>
	);
}

/** Whom emails come from, and the code that confirms it. */
function Sender({ app, state }: { app: string; state: GateState }) {
	const { name, address, replyTo, asked } = state.sender;
	const [code, setCode] = useState("");
	const ask = useDo<void>(
		["mails"],
		() => request("POST", appUrl(app, "/sender"), {}),
		() => toast.success(`A code is on its way to ${asked}.`),
	);
	const confirm = useDo<void>(
		["app", app],
		() => request("POST", appUrl(app, "/sender/confirm"), { code }),
		() => toast.success("Emails now come from this address."),
	);
	return (
		<section className="grid gap-2 justify-items-start">
			<h2 className="font-display text-lg font-semibold">Who emails come from</h2>
			<p>
				{name} &lt;{address}&gt;{replyTo && <span className="text-soft">, and replies go to {replyTo}</span>}
			</p>
			{asked && (
				<form
					className="grid gap-2 note-care justify-items-start"
					onSubmit={(e) => {
						e.preventDefault();
						confirm.mutate();
					}}
				>
					<p>{asked} is not confirmed yet. We’ll send a code there: enter it, and emails come from that address.</p>
					<div className="flex gap-2 items-end flex-wrap">
						<button type="button" className="btn" disabled={ask.isPending} onClick={() => ask.mutate()}>
							Send a code
						</button>
						<label className="grid gap-1">
							<span className="font-medium">Code</span>
							<input
								className="input !w-32"
								inputMode="numeric"
								autoComplete="one-time-code"
								value={code}
								onChange={(e) => setCode(e.target.value)}
							/>
						</label>
						<button type="submit" className="btn" disabled={confirm.isPending || code === ""}>
							Confirm
						</button>
					</div>
					{(ask.isError || confirm.isError) && (
						<p role="alert" className="note-bad">
							{wordsOf(ask.error ?? confirm.error)}
						</p>
					)}
				</form>
			)}
		</section>
	);
}

function Invite({ app, state }: { app: string; state: GateState }) {
	const [chosen, setRole] = useState("");
	const role = state.canCome.find((r) => r.id === chosen)?.id ?? state.canCome[0]?.id ?? "";
	const [email, setEmail] = useState("");
	const [name, setName] = useState("");
	const invite = useDo<void>(
		["app", app],
		() => request("POST", appUrl(app, "/invitations"), { role, email, name: name || undefined }),
		() => {
			toast.success(`Invited ${email}.`);
			setEmail("");
			setName("");
		},
	);
	const drop = useDo<string>(["app", app], (id) => request("DELETE", appUrl(app, `/invitations/${id}`)));
	return (
		<section className="grid gap-2">
			<h2 className="font-display text-lg font-semibold">Invite people</h2>
			{!state.liveHere ? (
				<p className="text-soft">Publish the app, then invite people here.</p>
			) : state.canCome.length === 0 ? (
				<p className="text-soft">
					No role in the live app takes new people. Say on the left that new people join by invitation, and publish.
				</p>
			) : (
				<form
					className="flex gap-2 flex-wrap items-end"
					onSubmit={(e) => {
						e.preventDefault();
						invite.mutate();
					}}
				>
					<label className="grid gap-1">
						<span className="font-medium">Role</span>
						<select className="input" value={role} onChange={(e) => setRole(e.target.value)}>
							{state.canCome.map((r) => (
								<option key={r.id} value={r.id}>
									{r.label}
								</option>
							))}
						</select>
					</label>
					<label className="grid gap-1">
						<span className="font-medium">Email</span>
						<input className="input" type="email" value={email} onChange={(e) => setEmail(e.target.value)} />
					</label>
					<label className="grid gap-1">
						<span className="font-medium">Name (optional)</span>
						<input className="input" value={name} onChange={(e) => setName(e.target.value)} />
					</label>
					<button type="submit" className="btn btn-main" disabled={invite.isPending}>
						Invite
					</button>
				</form>
			)}
			{(invite.isError || drop.isError) && (
				<p role="alert" className="note-bad">
					{wordsOf(invite.error ?? drop.error)}
				</p>
			)}
			<ul className="grid gap-1 max-w-xl">
				{state.invited.map((i) => (
					<li key={i.id} className="flex items-center gap-3">
						<span className="flex-1">
							{i.email} <span className="text-soft">invited until {moment(i.until)}</span>
						</span>
						<button type="button" className="btn" onClick={() => drop.mutate(i.id)}>
							Cancel invitation
						</button>
					</li>
				))}
			</ul>
		</section>
	);
}

const helps = {
	authenticator: "Reset authenticator",
	reopen: "Reopen closed account",
	"sign out": "Sign out everywhere",
};

/** For those who do not get in by themselves. */
function Help({ app }: { app: string }) {
	const [email, setEmail] = useState("");
	const [what, setWhat] = useState<keyof typeof helps>("authenticator");
	const help = useDo<void>(
		["app", app],
		() => request("POST", appUrl(app, "/help"), { email, do: what }),
		() => {
			toast.success("Done.");
			setEmail("");
		},
	);
	return (
		<section className="grid gap-2">
			<h2 className="font-display text-lg font-semibold">Help someone sign in</h2>
			{help.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(help.error)}
				</p>
			)}
			<form
				className="flex gap-2 flex-wrap items-end"
				onSubmit={(e) => {
					e.preventDefault();
					help.mutate();
				}}
			>
				<label className="grid gap-1">
					<span className="font-medium">Their email</span>
					<input className="input" type="email" value={email} onChange={(e) => setEmail(e.target.value)} />
				</label>
				<select
					className="input !w-80"
					aria-label="What to do"
					value={what}
					onChange={(e) => setWhat(e.target.value as keyof typeof helps)}
				>
					{Object.entries(helps).map(([id, words]) => (
						<option key={id} value={id}>
							{words}
						</option>
					))}
				</select>
				<button type="submit" className="btn" disabled={help.isPending || email === ""}>
					Continue
				</button>
			</form>
		</section>
	);
}

function Log({ state }: { state: GateState }) {
	return (
		<section className="grid gap-2">
			<h2 className="font-display text-lg font-semibold">Sign-in log</h2>
			{state.log.length === 0 ? (
				<p className="text-soft">
					No sign-ins to the live app yet. Sign-ins and refusals appear here, with the reason.
				</p>
			) : (
				<table className="text-left max-w-3xl">
					<tbody>
						{state.log.map((l) => (
							<tr key={l.id} className="border-b border-line align-top">
								<td className="py-1 pr-4 whitespace-nowrap text-soft">{moment(l.at)}</td>
								<td className="py-1 pr-4">{l.by || "–"}</td>
								<td className="py-1">{l.what}</td>
							</tr>
						))}
					</tbody>
				</table>
			)}
		</section>
	);
}
