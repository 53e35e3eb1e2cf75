import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { Link, useNavigate } from "react-router";
import { Problem, wordsOf } from "../../shared/api/client";
import type { Around } from "../blocks/Form";
import type { Send } from "../blocks/form/use";
import { Frame } from "../Frame";
import { onStage } from "../place";
import { forgetUnsent, keepUnsent, keptAs, unsent } from "../unsent";
import {
	type Admitted,
	carried,
	type Gate,
	type Invitation,
	post,
	type SignUp as SignUpRole,
	type Ticket,
	useEntering,
	useGate,
	wanted,
} from "./api";
import { CodeField, Field, GateCard, GateHead, NewPassword, SendAgain, Terms } from "./parts";

const Form = lazy(() => import("../blocks/Form"));

/** The page at which one signs up. */
export function SignUp() {
	const gate = useGate();
	if (!gate.data)
		return <p className="app-width py-16 text-soft">{gate.isError ? wordsOf(gate.error) : "Loading …"}</p>;
	return (
		<Frame app={gate.data.app} gate>
			{gate.data.signUps.length === 0 ? (
				<p className="empty">There is no sign-up here.</p>
			) : (
				<SignUpForm gate={gate.data} />
			)}
		</Frame>
	);
}

const asAddress = "sign-up address"; // the name by which the address is kept

/** Where what a role asks stands. */
const whereOf = (role: SignUpRole, invitation?: string) => ({ path: role.path, record: "", invitation });

type Answers = Parameters<Send>[0];

/** What a role asks those who sign up, among what the gate asks. */
function Asks({ role, invitation, around }: { role: SignUpRole; invitation?: string; around: Around }) {
	if (role.form.kind !== "form") return null;
	return (
		<Suspense fallback={<p className="text-soft">Loading …</p>}>
			<Form key={role.role} block={role.form} where={whereOf(role, invitation)} around={around} />
		</Suspense>
	);
}

function SignUpForm({ gate }: { gate: Gate }) {
	const [roleID, setRole] = useState(gate.signUps[0]?.role ?? "");
	const role = gate.signUps.find((r) => r.role === roleID);
	const [email, setEmail] = useState(() => unsent<string>(asAddress) ?? "");
	const [password, setPassword] = useState("");
	const [terms, setTerms] = useState(false);
	const [code, setCode] = useState("");
	const [sentAt, setSentAt] = useState(0);
	const [refusal, setRefusal] = useState("");
	const navigate = useNavigate();
	const client = useQueryClient();
	const send = useMutation({
		mutationFn: (values: Answers) =>
			post<Ticket>("/sign-up", {
				role: roleID,
				email: email.trim(),
				values,
				password: password || undefined,
				terms: terms ? gate.terms.version : undefined,
			}),
		onSuccess: () => setSentAt(Date.now()),
	});
	const confirm = useMutation({
		mutationFn: () =>
			post<Admitted>("/sign-up/confirm", { email: email.trim(), code: code.trim(), ticket: send.data?.ticket ?? "" }),
		onSuccess: async (a) => {
			if (role?.form.kind === "form") forgetUnsent(keptAs(role.form, whereOf(role)));
			forgetUnsent(asAddress);
			if (a.next === "waiting") return;
			await client.resetQueries();
			navigate(a.next === "in" ? "/" : "/~/sign-in");
		},
		onError: (e) => e instanceof Problem && e.status === 403 && setRefusal(e.message),
	});
	if (confirm.data?.next === "waiting" || refusal || wanted() === "waiting")
		return (
			<div className="card form-card w-full max-w-md mx-auto" role="status">
				<h1 className="page-heading">{refusal ? gate.words["refusal title"] : gate.words["sign-up title"]}</h1>
				<p className="whitespace-pre-line">{refusal || gate.words["waiting text"]}</p>
				<p>
					<Link className="button" to="/">
						Go to the home page
					</Link>
				</p>
			</div>
		);
	if (sentAt)
		return (
			<GateCard
				title="Confirm your email"
				text={`We emailed a 6-digit code to ${email.trim()}. Nothing is saved until you enter it.`}
				error={confirm.error ?? send.error}
				onSubmit={() => confirm.mutate()}
			>
				<CodeField value={code} onChange={setCode} />
				<p className="flex flex-wrap gap-3">
					<button type="submit" className="button button-main" disabled={confirm.isPending}>
						Confirm
					</button>
					<SendAgain sentAt={sentAt} onSend={() => send.mutate(send.variables ?? {})} />
					<button type="button" className="button" onClick={() => setSentAt(0)}>
						Back
					</button>
				</p>
			</GateCard>
		);
	if (!role) return null;
	const around: Around = {
		narrow: true,
		still: onStage,
		submit: role.approved ? "Request access" : "Continue",
		send: async (answers) => void (await send.mutateAsync(answers)),
		head: <GateHead title={gate.words["sign-up title"] ?? ""} text={gate.words["sign-up text"]} />,
		above: (
			<>
				{gate.signUps.length > 1 && (
					<label className="question">
						<span className="font-semibold">You sign up as one of</span>
						<select className="field-input" value={roleID} onChange={(e) => setRole(e.target.value)}>
							{gate.signUps.map((r) => (
								<option key={r.role} value={r.role}>
									{r.name}
								</option>
							))}
						</select>
					</label>
				)}
				<Field
					label="Your email"
					help="We’ll send a code there to make sure it is yours."
					type="email"
					autoComplete="email"
					value={email}
					onChange={(e) => {
						setEmail(e.target.value);
						if (!onStage) keepUnsent(asAddress, e.target.value);
					}}
				/>
			</>
		),
		below: (
			<>
				{gate.password && <NewPassword optional={!gate.must} value={password} onChange={setPassword} />}
				<Terms terms={gate.terms} value={terms} onChange={setTerms} />
			</>
		),
		beside: (
			<Link className="text-link" to="/~/sign-in">
				I already have an account
			</Link>
		),
	};
	return <Asks role={role} around={around} />;
}

/** The page to which an invitation leads. */
export function InvitationPage() {
	const gate = useGate();
	const [token] = useState(() => carried().get("token") ?? "");
	const look = useQuery({
		queryKey: ["invitation", token],
		queryFn: () => post<Invitation>("/invitation", { token }),
		retry: false,
	});
	if (!gate.data) return null;
	return (
		<Frame app={gate.data.app} gate>
			{look.isError ? (
				<div className="card max-w-lg">
					<h1 className="page-heading">This invitation no longer works</h1>
					<p className="mt-2">It was used or cancelled, or it is too old. Ask for a new one.</p>
				</div>
			) : look.data ? (
				<Accept gate={gate.data} invitation={look.data} token={token} />
			) : (
				<p className="text-soft">Loading …</p>
			)}
		</Frame>
	);
}

function Accept({ gate, invitation, token }: { gate: Gate; invitation: Invitation; token: string }) {
	const [password, setPassword] = useState("");
	const [terms, setTerms] = useState(false);
	const navigate = useNavigate();
	const enter = useEntering<Answers>(
		(values) =>
			post<Admitted>("/invitation/accept", {
				token,
				values,
				password: password || undefined,
				terms: terms ? gate.terms.version : undefined,
			}).then((a) => {
				const { form } = invitation.signUp;
				if (form.kind === "form") forgetUnsent(keptAs(form, whereOf(invitation.signUp)));
				if (a.next !== "in") navigate("/~/sign-in", { replace: true });
				return a;
			}),
		() => navigate("/", { replace: true }),
	);
	const around: Around = {
		narrow: true,
		submit: "Accept invitation",
		send: async (answers) => void (await enter.mutateAsync(answers)),
		head: (
			<GateHead
				title={`Welcome to ${gate.app.name}`}
				text={`You are invited as ${invitation.email}, to ${invitation.signUp.name}.`}
			/>
		),
		below: (
			<>
				{gate.password && <NewPassword optional={!gate.must} value={password} onChange={setPassword} />}
				<Terms terms={gate.terms} value={terms} onChange={setTerms} />
			</>
		),
	};
	return <Asks role={invitation.signUp} invitation={token} around={around} />;
}

/** The page at which a password is set by a code. */
export function Reset() {
	const gate = useGate();
	const [email, setEmail] = useState("");
	const [code, setCode] = useState("");
	const [password, setPassword] = useState("");
	const [sentAt, setSentAt] = useState(0);
	const ask = useMutation({
		mutationFn: () => post("/reset", { email: email.trim() }),
		onSuccess: () => setSentAt(Date.now()),
	});
	const use = useMutation({
		mutationFn: () => post("/reset/use", { email: email.trim(), code: code.trim(), password }),
	});
	if (!gate.data) return null;
	return (
		<Frame app={gate.data.app} gate>
			{use.isSuccess ? (
				<div className="card form-card w-full max-w-md mx-auto" role="status">
					<h1 className="page-heading">Your password is set</h1>
					<p>You are signed out everywhere.</p>
					<p>
						<Link className="button button-main" to="/~/sign-in">
							Sign in
						</Link>
					</p>
				</div>
			) : (
				<GateCard
					title="Set a password"
					text={sentAt ? gate.data.words["sent text"] : "We’ll email you a code for setting one."}
					error={use.error ?? ask.error}
					onSubmit={() => (sentAt ? use.mutate() : ask.mutate())}
				>
					{sentAt ? (
						<>
							<CodeField value={code} onChange={setCode} />
							<NewPassword label="New password" value={password} onChange={setPassword} />
						</>
					) : (
						<Field
							label="Your email"
							type="email"
							autoComplete="email"
							value={email}
							onChange={(e) => setEmail(e.target.value)}
						/>
					)}
					<p className="flex flex-wrap gap-3">
						<button type="submit" className="button button-main" disabled={ask.isPending || use.isPending || onStage}>
							{sentAt ? "Set password" : "Send code"}
						</button>
						{sentAt > 0 && <SendAgain sentAt={sentAt} onSend={() => ask.mutate()} />}
					</p>
				</GateCard>
			)}
		</Frame>
	);
}
