import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { wordsOf } from "../shared/api/client";
import { Frame } from "./Frame";
import { askCode, enterCode, getApp } from "./place";

/** The page at which one signs in. */
export function SignIn() {
	const app = useQuery({ queryKey: ["app"], queryFn: getApp });
	const navigate = useNavigate();
	if (!app.data) return <p className="app-width py-16 text-soft">{app.isError ? wordsOf(app.error) : "Loading …"}</p>;
	return (
		<Frame app={app.data}>
			<SignInForm onDone={() => navigate("/")} />
		</Frame>
	);
}

/** Asks for the e-mail address, then for the code that was sent there. */
export function SignInForm({ why, onDone }: { why?: string; onDone?: () => void }) {
	const [email, setEmail] = useState("");
	const [code, setCode] = useState("");
	const client = useQueryClient();
	const ask = useMutation({ mutationFn: () => askCode(email.trim()) });
	const enter = useMutation({
		mutationFn: () => enterCode(email.trim(), code.trim()),
		onSuccess: async () => {
			client.removeQueries({ queryKey: ["app"] });
			await client.resetQueries();
			onDone?.();
		},
	});
	const submit = (e: FormEvent) => {
		e.preventDefault();
		if (ask.isSuccess) enter.mutate();
		else ask.mutate();
	};
	const again = () => {
		setCode("");
		enter.reset();
		ask.reset();
	};
	const error = enter.error ?? ask.error;
	return (
		<form className="card form-card max-w-md mx-auto" onSubmit={submit} noValidate>
			<h1 className="page-heading">Sign in</h1>
			{why && <p className="text-soft">{why}</p>}
			{error && (
				<p role="alert" className="note note-bad">
					{wordsOf(error)}
				</p>
			)}
			{ask.isSuccess ? (
				<div className="question">
					<p>If we know {email.trim()}, a code with six digits is on its way there. It holds for ten minutes.</p>
					<label htmlFor="code">Code from the mail</label>
					<input
						id="code"
						className="field-input tracking-widest"
						// biome-ignore lint/a11y/noAutofocus: the person waits to type the code here
						autoFocus
						inputMode="numeric"
						autoComplete="one-time-code"
						maxLength={6}
						value={code}
						onChange={(e) => setCode(e.target.value)}
					/>
				</div>
			) : (
				<div className="question">
					<label htmlFor="email">Your e-mail address</label>
					<input
						id="email"
						className="field-input"
						type="email"
						autoComplete="email"
						value={email}
						onChange={(e) => setEmail(e.target.value)}
					/>
					<p className="text-soft text-sm">We send you a code. There is no password to remember.</p>
				</div>
			)}
			<p className="flex flex-wrap gap-3">
				<button type="submit" className="button button-main" disabled={ask.isPending || enter.isPending}>
					{ask.isSuccess ? "Sign in" : "Send me a code"}
				</button>
				{ask.isSuccess && (
					<button type="button" className="button" onClick={again}>
						Use another address or send again
					</button>
				)}
			</p>
		</form>
	);
}
