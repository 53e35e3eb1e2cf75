import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useId, useState } from "react";
import { Outlet } from "react-router";
import { request, wordsOf } from "../../shared/api/client";
import { type Ticket, useSession } from "../api";
import { ErrorNote, Loading, Wordmark } from "../ui";

/** What is only there for builders who signed in. */
export function SignedIn() {
	const session = useSession();
	if (session.isError) return <ErrorNote error={session.error} retry={() => void session.refetch()} />;
	if (!session.data) return <Loading />;
	if (session.data.signedIn) return <Outlet />;
	return <Front>{session.data.second ? <Second /> : <Ways />}</Front>;
}

/** The screen in front of the builder. */
export function Front({ children }: { children: ReactNode }) {
	return (
		<div className="min-h-dvh grid md:grid-cols-[1fr_1.1fr]">
			<aside className="bg-deep text-on-deep p-8 md:p-14 flex flex-col justify-between gap-10">
				<Wordmark />
				<div className="grid gap-5 max-w-md">
					<h1 className="font-display text-4xl leading-tight font-semibold">Your business, in sentences that run.</h1>
					<p className="text-lg opacity-85">
						Say what your app keeps, who can see it and what its pages show. See it as anyone, then publish.
					</p>
				</div>
				<p className="opacity-70">Records, logins, forms and pages in one place.</p>
			</aside>
			<main className="grid place-content-center p-8">{children}</main>
		</div>
	);
}

interface CardProps {
	title: string;
	text?: string;
	error: unknown;
	onSubmit: () => void;
	children: ReactNode;
}

/** A small form in front of the builder. */
export function FrontForm({ title, text, error, onSubmit, children }: CardProps) {
	const submit = (e: FormEvent) => {
		e.preventDefault();
		onSubmit();
	};
	return (
		<form className="grid gap-4 w-80" onSubmit={submit} noValidate>
			<h2 className="font-display text-2xl font-semibold">{title}</h2>
			{text && <p className="text-soft">{text}</p>}
			{error != null && (
				<p role="alert" className="note-bad">
					{wordsOf(error)}
				</p>
			)}
			{children}
		</form>
	);
}

interface InputProps {
	label: string;
	type?: string;
	autoComplete?: string;
	value: string;
	help?: string;
	onChange: (v: string) => void;
}

/** A labelled field in front of the builder. */
export function Input({ label, help, onChange, ...input }: InputProps) {
	const id = useId();
	return (
		<div className="grid gap-1">
			<label htmlFor={id} className="font-medium">
				{label}
			</label>
			<input id={id} className="input" {...input} onChange={(e) => onChange(e.target.value)} />
			{help && <p className="text-soft">{help}</p>}
		</div>
	);
}

type Way = "in" | "up" | "reset";

function Ways() {
	const [way, setWay] = useState<Way>("in");
	if (way === "up") return <SignUp onBack={() => setWay("in")} />;
	if (way === "reset") return <Reset onBack={() => setWay("in")} />;
	return <SignIn onWay={setWay} />;
}

function SignIn({ onWay }: { onWay: (w: Way) => void }) {
	const session = useSession();
	const client = useQueryClient();
	const [email, setEmail] = useState("");
	const [password, setPassword] = useState("");
	const enter = useMutation({
		mutationFn: (who: { email: string; password: string }) => request<unknown>("POST", "/api/sign-in", who),
		onSuccess: () => client.resetQueries(),
	});
	const demo = session.data?.demo;
	return (
		<FrontForm title="Sign in" error={enter.error} onSubmit={() => enter.mutate({ email, password })}>
			<Input label="Email" type="email" autoComplete="username" value={email} onChange={setEmail} />
			<Input label="Password" type="password" autoComplete="current-password" value={password} onChange={setPassword} />
			<button type="submit" className="btn btn-main" disabled={enter.isPending}>
				Sign in
			</button>
			<p className="flex justify-between gap-3">
				<button type="button" className="link-button" onClick={() => onWay("up")}>
					Create an account
				</button>
				<button type="button" className="link-button" onClick={() => onWay("reset")}>
					Set a new password
				</button>
			</p>
			{demo && (
				<div className="border-t border-line pt-4 mt-2 grid gap-2">
					<p className="text-soft">This is the demo. Open it as {demo.name}, who runs a boatyard.</p>
					<button
						type="button"
						className="btn"
						onClick={() => enter.mutate({ email: demo.email, password: demo.password })}
						disabled={enter.isPending}
					>
						Open the demo as {demo.name}
					</button>
				</div>
			)}
		</FrontForm>
	);
}

const rules = "At least 10 characters. A few unrelated words are easy to remember.";

function SignUp({ onBack }: { onBack: () => void }) {
	const client = useQueryClient();
	const [name, setName] = useState("");
	const [email, setEmail] = useState("");
	const [password, setPassword] = useState("");
	const [code, setCode] = useState("");
	const send = useMutation({ mutationFn: () => request<Ticket>("POST", "/api/sign-up", { name, email, password }) });
	const confirm = useMutation({
		mutationFn: async () => {
			await request<void>("POST", "/api/sign-up/confirm", { email, code, ticket: send.data?.ticket });
			await request<unknown>("POST", "/api/sign-in", { email, password });
		},
		onSuccess: () => client.resetQueries(),
	});
	if (send.isSuccess)
		return (
			<FrontForm
				title="Confirm your email"
				text={`An email is on its way to ${email}. Enter the code in it.`}
				error={confirm.error}
				onSubmit={() => confirm.mutate()}
			>
				<Input label="Code from the email" autoComplete="one-time-code" value={code} onChange={setCode} />
				<button type="submit" className="btn btn-main" disabled={confirm.isPending}>
					Confirm
				</button>
				<button type="button" className="link-button justify-self-start" onClick={onBack}>
					Back
				</button>
			</FrontForm>
		);
	return (
		<FrontForm
			title="Create an account"
			text="You get your own workspace for building apps."
			error={send.error}
			onSubmit={() => send.mutate()}
		>
			<Input label="Your name" autoComplete="name" value={name} onChange={setName} />
			<Input label="Email" type="email" autoComplete="username" value={email} onChange={setEmail} />
			<Input
				label="Password"
				type="password"
				autoComplete="new-password"
				value={password}
				onChange={setPassword}
				help={rules}
			/>
			<button type="submit" className="btn btn-main" disabled={send.isPending}>
				Create account
			</button>
			<button type="button" className="link-button justify-self-start" onClick={onBack}>
				I have an account
			</button>
		</FrontForm>
	);
}

function Reset({ onBack }: { onBack: () => void }) {
	const [email, setEmail] = useState("");
	const [password, setPassword] = useState("");
	const [code, setCode] = useState("");
	const ask = useMutation({ mutationFn: () => request<void>("POST", "/api/reset", { email }) });
	const use = useMutation({
		mutationFn: () => request<void>("POST", "/api/reset/use", { email, code, password }),
		onSuccess: onBack,
	});
	return (
		<FrontForm
			title="Set a new password"
			text={
				ask.isSuccess
					? "If you have an account, a code is on its way. It works in this browser only."
					: "We’ll email you a code for setting one."
			}
			error={use.error ?? ask.error}
			onSubmit={() => (ask.isSuccess ? use.mutate() : ask.mutate())}
		>
			{ask.isSuccess ? (
				<>
					<Input label="Code from the email" autoComplete="one-time-code" value={code} onChange={setCode} />
					<Input
						label="New password"
						type="password"
						autoComplete="new-password"
						value={password}
						onChange={setPassword}
						help={rules}
					/>
				</>
			) : (
				<Input label="Email" type="email" autoComplete="username" value={email} onChange={setEmail} />
			)}
			<button type="submit" className="btn btn-main" disabled={ask.isPending || use.isPending}>
				{ask.isSuccess ? "Set password" : "Send code"}
			</button>
			<button type="button" className="link-button justify-self-start" onClick={onBack}>
				Back
			</button>
		</FrontForm>
	);
}

function Second() {
	const client = useQueryClient();
	const [code, setCode] = useState("");
	const enter = useMutation({
		mutationFn: () => request<unknown>("POST", "/api/sign-in/second", { code }),
		onSuccess: () => client.resetQueries(),
	});
	const leave = useMutation({
		mutationFn: () => request<void>("POST", "/api/sign-out"),
		onSuccess: () => client.resetQueries(),
	});
	return (
		<FrontForm
			title="One more step"
			text="Enter the code from your authenticator app, or a recovery code."
			error={enter.error}
			onSubmit={() => enter.mutate()}
		>
			<Input label="Code" autoComplete="one-time-code" value={code} onChange={setCode} />
			<button type="submit" className="btn btn-main" disabled={enter.isPending}>
				Continue
			</button>
			<button type="button" className="link-button justify-self-start" onClick={() => leave.mutate()}>
				Cancel
			</button>
		</FrontForm>
	);
}
