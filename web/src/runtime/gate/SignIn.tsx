import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { Problem, wordsOf } from "../../shared/api/client";
import { Frame } from "../Frame";
import { onStage } from "../place";
import { type Admitted, carried, type Gate, post, useEntering, useGate, wanted, within } from "./api";
import { CodeField, Field, GateCard, SendAgain } from "./parts";
import { SecondStep } from "./Second";

type Way = Gate["ways"][number];

/** The page at which one signs in. */
export function SignIn() {
	const gate = useGate();
	const navigate = useNavigate();
	const to = within((useLocation().state as { to?: string } | null)?.to);
	if (!gate.data)
		return <p className="app-width py-16 text-soft">{gate.isError ? wordsOf(gate.error) : "Loading …"}</p>;
	return (
		<Frame app={gate.data.app} gate>
			<SignInForm onDone={() => navigate(to)} />
		</Frame>
	);
}

interface FormProps {
	why?: string;
	/** Where a link that is mailed leads. */
	to?: string;
	onDone?: () => void;
}

/** The way in that the person chooses, and what comes after it. */
export function SignInForm({ why, to, onDone }: FormProps) {
	const gate = useGate();
	const [chosen, setChosen] = useState<Way | null>(null);
	const [refusal, setRefusal] = useState(
		wanted() === "refusal" ? "Each role has its own text for people who can’t sign in." : "",
	);
	if (!gate.data) return null;
	const g = gate.data;
	if (g.state === "second" || g.state === "enrol") return <SecondStep gate={g} onDone={onDone} />;
	if (refusal)
		return (
			<div className="card form-card w-full max-w-md mx-auto" role="alert">
				<h1 className="page-heading">{g.words["refusal title"]}</h1>
				<p className="whitespace-pre-line">{refusal}</p>
				<p>
					<button type="button" className="button" onClick={() => setRefusal("")}>
						Sign in as someone else
					</button>
				</p>
			</div>
		);
	const ways = g.ways.filter((w) => w !== "fields" || g.finds.length > 0);
	const way = chosen ?? ways[0];
	const props = { gate: g, why, to, onDone, refused: setRefusal };
	return (
		<div className="grid gap-3">
			{way === "code" && <ByCode key="code" {...props} />}
			{way === "link" && <ByLink key="link" {...props} />}
			{way === "password" && <ByPassword key="password" {...props} />}
			{way === "fields" && <ByFields key="fields" {...props} />}
			<Others ways={ways.filter((w) => w !== way)} gate={g} onChoose={setChosen} />
		</div>
	);
}

const wayWords: Record<Way, string> = {
	code: "Email me a code instead",
	link: "Email me a link instead",
	password: "Use a password instead",
	fields: "Use details from my record instead",
};

function Others({ ways, gate, onChoose }: { ways: Way[]; gate: Gate; onChoose: (w: Way) => void }) {
	return (
		<div className="gate-others max-w-md w-full mx-auto flex flex-wrap gap-x-5 gap-y-1">
			{ways.map((w) => (
				<button key={w} type="button" className="text-link" onClick={() => onChoose(w)}>
					{wayWords[w]}
				</button>
			))}
			{gate.signUps.length > 0 && (
				<Link className="text-link" to="/~/sign-up">
					{gate.words["sign-up title"]}
				</Link>
			)}
		</div>
	);
}

interface WayProps extends FormProps {
	gate: Gate;
	refused: (why: string) => void;
}

function Remember({ gate, value, onChange }: { gate: Gate; value: boolean; onChange: (v: boolean) => void }) {
	if (!gate.remember) return null;
	return (
		<label className="flex gap-2 items-center">
			<input type="checkbox" className="size-5" checked={value} onChange={(e) => onChange(e.target.checked)} />
			Remember me on this device
		</label>
	);
}

function EmailField({ value, onChange, help }: { value: string; onChange: (v: string) => void; help?: string }) {
	return (
		<Field
			label="Your email"
			help={help}
			type="email"
			autoComplete="email"
			value={value}
			onChange={(e) => onChange(e.target.value)}
		/>
	);
}

/** Mail that was asked for, and when. */
function useAsking<V>(send: (v: V) => Promise<void>) {
	const [sentAt, setSentAt] = useState(wanted() === "code" ? Date.now() : 0);
	const ask = useMutation({ mutationFn: send, onSuccess: () => setSentAt(Date.now()) });
	return { ask, sentAt, back: () => setSentAt(0) };
}

interface SentProps {
	gate: Gate;
	code: string;
	onCode: (code: string) => void;
}

/** What stands there once mail was asked for. */
function Sent({ gate, code, onCode }: SentProps) {
	return (
		<>
			<p>{gate.words["sent text"]}</p>
			<CodeField value={code} onChange={onCode} />
		</>
	);
}

function ByCode({ gate, why, onDone, refused }: WayProps) {
	const [email, setEmail] = useState("");
	const [code, setCode] = useState("");
	const [remember, setRemember] = useState(false);
	const { ask, sentAt, back } = useAsking(() => post("/sign-in/code", { email: email.trim() }));
	const enter = useEntering<void>(
		() => post<Admitted>("/sign-in", { email: email.trim(), code: code.trim(), remember }),
		onDone,
		refused,
	);
	return (
		<GateCard
			title={gate.words["sign-in title"] ?? ""}
			text={why ?? gate.words["sign-in text"]}
			error={enter.error ?? ask.error}
			onSubmit={() => (sentAt ? enter.mutate() : ask.mutate(undefined))}
		>
			{sentAt ? (
				<Sent gate={gate} code={code} onCode={setCode} />
			) : (
				<EmailField
					value={email}
					onChange={setEmail}
					help="We’ll email you a code. There is no password to remember."
				/>
			)}
			{!sentAt && <Remember gate={gate} value={remember} onChange={setRemember} />}
			<p className="flex flex-wrap gap-3">
				<button type="submit" className="button button-main" disabled={ask.isPending || enter.isPending || onStage}>
					{sentAt ? "Sign in" : "Send code"}
				</button>
				{sentAt > 0 && (
					<>
						<SendAgain sentAt={sentAt} onSend={() => ask.mutate(undefined)} />
						<button
							type="button"
							className="button"
							onClick={() => {
								setCode("");
								enter.reset();
								back();
							}}
						>
							Use another email
						</button>
					</>
				)}
			</p>
		</GateCard>
	);
}

function ByLink({ gate, why, to }: WayProps) {
	const [email, setEmail] = useState("");
	const { ask, sentAt } = useAsking(() => post("/sign-in/link", { email: email.trim(), to }));
	return (
		<GateCard
			title={gate.words["sign-in title"] ?? ""}
			text={why ?? gate.words["sign-in text"]}
			error={ask.error}
			onSubmit={() => ask.mutate(undefined)}
		>
			{sentAt ? <p>{gate.words["sent text"]}</p> : <EmailField value={email} onChange={setEmail} />}
			<p>
				{sentAt ? (
					<SendAgain sentAt={sentAt} onSend={() => ask.mutate(undefined)} />
				) : (
					<button type="submit" className="button button-main" disabled={ask.isPending || onStage}>
						Send link
					</button>
				)}
			</p>
		</GateCard>
	);
}

function ByPassword({ gate, why, onDone, refused }: WayProps) {
	const [email, setEmail] = useState("");
	const [password, setPassword] = useState("");
	const [remember, setRemember] = useState(false);
	const enter = useEntering<void>(
		() => post<Admitted>("/sign-in/password", { email: email.trim(), password, remember }),
		onDone,
		refused,
	);
	return (
		<GateCard
			title={gate.words["sign-in title"] ?? ""}
			text={why ?? gate.words["sign-in text"]}
			error={enter.error}
			onSubmit={() => enter.mutate()}
		>
			<EmailField value={email} onChange={setEmail} />
			<Field
				label="Password"
				type="password"
				autoComplete="current-password"
				help={
					<Link className="text-link" to="/~/reset">
						Set a new password
					</Link>
				}
				value={password}
				onChange={(e) => setPassword(e.target.value)}
			/>
			<Remember gate={gate} value={remember} onChange={setRemember} />
			<p>
				<button type="submit" className="button button-main" disabled={enter.isPending || onStage}>
					Sign in
				</button>
			</p>
		</GateCard>
	);
}

function ByFields({ gate, why, onDone, refused }: WayProps) {
	const [role, setRole] = useState(gate.finds[0]?.role ?? "");
	const find = gate.finds.find((f) => f.role === role);
	const [answers, setAnswers] = useState<string[]>([]);
	const [code, setCode] = useState("");
	const [remember, setRemember] = useState(false);
	const sent = { role, answers: find?.labels.map((_, i) => answers[i] ?? "") ?? [] };
	const { ask, sentAt } = useAsking(() => post("/sign-in/fields", sent));
	const enter = useEntering<void>(
		() => post<Admitted>("/sign-in/fields/use", { ...sent, code: code.trim(), remember }),
		onDone,
		refused,
	);
	return (
		<GateCard
			title={gate.words["sign-in title"] ?? ""}
			text={why ?? gate.words["sign-in text"]}
			error={enter.error ?? ask.error}
			onSubmit={() => (sentAt ? enter.mutate() : ask.mutate(undefined))}
		>
			{sentAt > 0 ? (
				<Sent gate={gate} code={code} onCode={setCode} />
			) : (
				<>
					{gate.finds.length > 1 && <RolePick gate={gate} value={role} onChange={setRole} />}
					{find?.labels.map((label, i) => (
						<Field
							key={label}
							label={label}
							value={answers[i] ?? ""}
							onChange={(e) => setAnswers(find.labels.map((_, j) => (i === j ? e.target.value : (answers[j] ?? ""))))}
						/>
					))}
					<Remember gate={gate} value={remember} onChange={setRemember} />
				</>
			)}
			<p className="flex flex-wrap gap-3">
				<button type="submit" className="button button-main" disabled={ask.isPending || enter.isPending || onStage}>
					{sentAt ? "Sign in" : "Send code"}
				</button>
				{sentAt > 0 && <SendAgain sentAt={sentAt} onSend={() => ask.mutate(undefined)} />}
			</p>
		</GateCard>
	);
}

function RolePick({ gate, value, onChange }: { gate: Gate; value: string; onChange: (v: string) => void }) {
	return (
		<label className="question">
			<span className="font-semibold">You are one of</span>
			<select className="field-input" value={value} onChange={(e) => onChange(e.target.value)}>
				{gate.finds.map((f) => (
					<option key={f.role} value={f.role}>
						{f.name}
					</option>
				))}
			</select>
		</label>
	);
}

/** Where a link that was mailed leads. It is used by a press, because programs that check mail open links, too. */
export function UseLink() {
	const gate = useGate();
	const navigate = useNavigate();
	const client = useQueryClient();
	const [sent] = useState(carried);
	const [refusal, setRefusal] = useState("");
	const enter = useMutation({
		mutationFn: () => post<Admitted>("/sign-in/link/use", { token: sent.get("token") ?? "", remember: true }),
		onSuccess: async (a) => {
			await client.resetQueries();
			navigate(a.next === "in" ? within(sent.get("to")) : "/~/sign-in", {
				replace: true,
				state: { to: within(sent.get("to")) },
			});
		},
		onError: (e) => e instanceof Problem && e.status === 403 && setRefusal(e.message),
	});
	if (!gate.data) return null;
	return (
		<Frame app={gate.data.app} gate>
			<GateCard
				title={refusal ? (gate.data.words["refusal title"] ?? "") : (gate.data.words["sign-in title"] ?? "")}
				text={refusal || `You followed a link to ${gate.data.app.name}.`}
				error={refusal ? null : enter.error}
				onSubmit={() => enter.mutate()}
			>
				{!refusal && (
					<p>
						<button type="submit" className="button button-main" disabled={enter.isPending}>
							Sign in
						</button>
					</p>
				)}
			</GateCard>
		</Frame>
	);
}
