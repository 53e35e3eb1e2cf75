import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { wordsOf } from "../../shared/api/client";
import { type Admitted, type Gate, post, type Setup, useEntering } from "./api";
import { CodeField, GateCard, SendAgain } from "./parts";

/** What comes after the way in. */
export function SecondStep({ gate, onDone }: { gate: Gate; onDone?: () => void }) {
	return gate.state === "enrol" ? <SetUp onDone={onDone} /> : <Second gate={gate} onDone={onDone} />;
}

function Cancel() {
	const client = useQueryClient();
	const leave = useMutation({ mutationFn: () => post("/sign-out"), onSuccess: () => client.resetQueries() });
	return (
		<button type="button" className="button" onClick={() => leave.mutate()}>
			Cancel
		</button>
	);
}

function Second({ gate, onDone }: { gate: Gate; onDone?: () => void }) {
	const [code, setCode] = useState("");
	const [sentAt, setSentAt] = useState(() => Date.now());
	const again = useMutation({ mutationFn: () => post("/sign-in/second/send"), onSuccess: () => setSentAt(Date.now()) });
	const enter = useEntering<void>(() => post<Admitted>("/sign-in/second", { code: code.trim() }), onDone);
	return (
		<GateCard
			title="One more step"
			text={
				gate.mailed
					? "We emailed you a code."
					: "Enter the code from your authenticator app. If you lost it, enter a recovery code."
			}
			error={enter.error ?? again.error}
			onSubmit={() => enter.mutate()}
		>
			<CodeField value={code} onChange={setCode} long={!gate.mailed} label={gate.mailed ? undefined : "Code"} />
			<p className="flex flex-wrap gap-3">
				<button type="submit" className="button button-main" disabled={enter.isPending}>
					Continue
				</button>
				{gate.mailed && <SendAgain sentAt={sentAt} onSend={() => again.mutate()} />}
				<Cancel />
			</p>
		</GateCard>
	);
}

function SetUp({ onDone }: { onDone?: () => void }) {
	const client = useQueryClient();
	const [code, setCode] = useState("");
	const setup = useQuery({
		queryKey: ["authenticator"],
		queryFn: () => post<Setup>("/sign-in/authenticator"),
		staleTime: Number.POSITIVE_INFINITY,
	});
	const enter = useEntering<void>(() => post<Admitted>("/sign-in/authenticator/use", { code: code.trim() }), onDone);
	const recovery = enter.data?.recovery;
	if (recovery?.length)
		return (
			<div className="card form-card w-full max-w-md mx-auto">
				<h1 className="page-heading">Keep these recovery codes</h1>
				<p>Each signs you in once if you lose your authenticator. They are shown only now.</p>
				<ul className="grid grid-cols-1 sm:grid-cols-2 gap-1 font-mono text-sm" data-recovery>
					{recovery.map((c) => (
						<li key={c}>{c}</li>
					))}
				</ul>
				<p>
					<button
						type="button"
						className="button button-main"
						onClick={() => {
							onDone?.();
							void client.resetQueries();
						}}
					>
						I have kept them
					</button>
				</p>
			</div>
		);
	return (
		<GateCard
			title="Set up your authenticator"
			text="Signing in will ask for a code from an authenticator app on your phone. Scan this with the app, or type the key, and enter the code it shows."
			error={enter.error ?? setup.error}
			onSubmit={() => enter.mutate()}
		>
			{setup.data ? (
				<div className="grid gap-2 justify-items-start">
					<img
						src={setup.data.image}
						alt="The key as a code to scan"
						width={200}
						height={200}
						className="border border-(--line)"
					/>
					<p className="text-sm break-all">
						Key: <code data-secret>{setup.data.secret}</code>
					</p>
				</div>
			) : (
				<p className="text-soft">{setup.isError ? wordsOf(setup.error) : "Loading …"}</p>
			)}
			<CodeField value={code} onChange={setCode} label="Code from the app" />
			<p className="flex flex-wrap gap-3">
				<button type="submit" className="button button-main" disabled={enter.isPending}>
					Continue
				</button>
				<Cancel />
			</p>
		</GateCard>
	);
}
