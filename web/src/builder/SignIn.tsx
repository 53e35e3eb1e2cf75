import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Outlet } from "react-router";
import { request, wordsOf } from "../shared/api/client";
import { useSession } from "./api";
import { ErrorNote, Loading, Wordmark } from "./ui";

/** What is only there for builders who signed in. */
export function SignedIn() {
	const session = useSession();
	if (session.isError) return <ErrorNote error={session.error} retry={() => void session.refetch()} />;
	if (!session.data) return <Loading />;
	return session.data.signedIn ? <Outlet /> : <SignIn />;
}

function SignIn() {
	const session = useSession();
	const client = useQueryClient();
	const [email, setEmail] = useState("");
	const [password, setPassword] = useState("");
	const enter = useMutation({
		mutationFn: (who: { email: string; password: string }) => request<void>("POST", "/api/sign-in", who),
		onSuccess: () => client.resetQueries(),
	});
	const demo = session.data?.demo;
	const submit = (e: FormEvent) => {
		e.preventDefault();
		enter.mutate({ email, password });
	};
	return (
		<div className="min-h-dvh grid md:grid-cols-[1fr_1.1fr]">
			<aside className="bg-deep text-on-deep p-8 md:p-14 flex flex-col justify-between gap-10">
				<Wordmark />
				<div className="grid gap-5 max-w-md">
					<h1 className="font-display text-4xl leading-tight font-semibold">
						Your business, written down as sentences that run.
					</h1>
					<p className="text-lg opacity-85">
						Say what your app keeps, who may see it and what its pages show. See it as anybody, then publish.
					</p>
				</div>
				<p className="opacity-70">Records, logins, forms and pages in one place.</p>
			</aside>
			<main className="grid place-content-center p-8">
				<form className="grid gap-4 w-80" onSubmit={submit}>
					<h2 className="font-display text-2xl font-semibold">Sign in</h2>
					{enter.isError && (
						<p role="alert" className="note-bad">
							{wordsOf(enter.error)}
						</p>
					)}
					<label className="grid gap-1">
						<span className="font-medium">E-mail</span>
						<input
							className="input"
							type="email"
							autoComplete="username"
							value={email}
							onChange={(e) => setEmail(e.target.value)}
						/>
					</label>
					<label className="grid gap-1">
						<span className="font-medium">Password</span>
						<input
							className="input"
							type="password"
							autoComplete="current-password"
							value={password}
							onChange={(e) => setPassword(e.target.value)}
						/>
					</label>
					<button type="submit" className="btn btn-main" disabled={enter.isPending}>
						Sign in
					</button>
					{demo && (
						<div className="border-t border-line pt-4 mt-2 grid gap-2">
							<p className="text-soft">This is the demo. Walk in as {demo.name}, who runs a boatyard.</p>
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
				</form>
			</main>
		</div>
	);
}
