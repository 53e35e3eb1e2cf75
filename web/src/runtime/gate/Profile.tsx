import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, lazy, type ReactNode, Suspense, useState } from "react";
import { useNavigate } from "react-router";
import { request, wordsOf } from "../../shared/api/client";
import { useTitle } from "../../shared/title";
import { AfterForm } from "../blocks/form/after";
import { Frame } from "../Frame";
import { base } from "../place";
import { type Me, type MyPart, post, useGate } from "./api";
import { CodeField, Field, NewPassword } from "./parts";
import { SignInForm } from "./SignIn";

const Form = lazy(() => import("../blocks/Form"));

/** What somebody finds about themselves. */
export function Profile() {
	useTitle("Your profile");
	const me = useQuery({ queryKey: ["me"], queryFn: () => request<Me>("GET", `${base}/-/me`), retry: false });
	const gate = useGate();
	const [saved, setSaved] = useState("");
	if (me.isError && gate.data)
		return (
			<Frame app={gate.data.app}>
				<SignInForm why="Please sign in to see your profile." />
			</Frame>
		);
	if (!me.data) return <p className="app-width py-16 text-soft">{me.isError ? wordsOf(me.error) : "Loading …"}</p>;
	const m = me.data;
	return (
		<Frame app={m.app}>
			<div className="grid gap-5 max-w-2xl">
				<h1 className="page-heading">Your profile</h1>
				<Suspense fallback={<p className="text-soft">Loading …</p>}>
					{m.parts.map((p) => (
						<Part
							key={p.path}
							part={p}
							title={m.parts.length > 1 ? `Your details: ${p.role}` : "Your details"}
							saved={saved === p.path}
							onSaved={() => {
								setSaved(p.path);
								return true;
							}}
						/>
					))}
				</Suspense>
				<Address me={m} />
				{m.passwords && <Password me={m} />}
				<Sessions me={m} />
				{m.terms.length > 0 && (
					<p className="text-soft text-sm">
						You accepted the terms of {m.terms.map((t) => `version ${t.version} on ${day(t.at)}`).join(", ")}.
					</p>
				)}
				{m.closing && <Closing me={m} />}
			</div>
		</Frame>
	);
}

const day = (iso: string) =>
	new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
const moment = (iso: string) => new Date(iso).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

function Section({ title, children }: { title: string; children: ReactNode }) {
	return (
		<section className="card grid gap-3">
			<h2 className="font-semibold text-lg">{title}</h2>
			{children}
		</section>
	);
}

function Trouble({ error }: { error: unknown }) {
	return error ? (
		<p role="alert" className="note note-bad">
			{wordsOf(error)}
		</p>
	) : null;
}

function Done({ show, children }: { show: boolean; children: ReactNode }) {
	return show ? (
		<p role="status" className="note note-good">
			{children}
		</p>
	) : null;
}

const sending = (send: () => void) => (e: FormEvent) => {
	e.preventDefault();
	send();
};

interface PartProps {
	part: MyPart;
	title: string;
	saved: boolean;
	onSaved: () => boolean;
}

/** What somebody finds of a record of theirs, and changes of it. */
function Part({ part, title, saved, onSaved }: PartProps) {
	const { form } = part;
	if (form.kind !== "form") return null;
	const head = (
		<>
			<h2 className="font-semibold text-lg">{title}</h2>
			<Done show={saved}>Your details are saved.</Done>
		</>
	);
	return (
		<AfterForm value={onSaved}>
			<Form
				block={form}
				where={{ path: part.path, record: part.record }}
				around={{ head, shows: !form.live && form.state.questions.every((q) => q.shown) }}
			/>
		</AfterForm>
	);
}

function Address({ me }: { me: Me }) {
	const client = useQueryClient();
	const [email, setEmail] = useState("");
	const [password, setPassword] = useState("");
	const [code, setCode] = useState("");
	const [open, setOpen] = useState(false);
	const ask = useMutation({
		mutationFn: () => post("/me/address", { email: email.trim(), password: password || undefined }),
	});
	const use = useMutation({
		mutationFn: () => post("/me/address/use", { email: email.trim(), code: code.trim() }),
		onSuccess: async () => {
			setOpen(false);
			ask.reset();
			await client.resetQueries();
		},
	});
	return (
		<Section title="Email">
			<p>
				You sign in as <strong>{me.email}</strong>.
			</p>
			<Done show={use.isSuccess && !open}>Your email is changed.</Done>
			{!open ? (
				<p>
					<button type="button" className="button" onClick={() => setOpen(true)}>
						Change email
					</button>
				</p>
			) : (
				<form className="form-card" onSubmit={sending(() => (ask.isSuccess ? use.mutate() : ask.mutate()))} noValidate>
					<Trouble error={use.error ?? ask.error} />
					{ask.isSuccess ? (
						<>
							<p>If this email is free, a code is on its way to {email.trim()}.</p>
							<CodeField value={code} onChange={setCode} />
						</>
					) : (
						<>
							<Field
								label="New email"
								help="We’ll send a code there to make sure it is yours."
								type="email"
								value={email}
								onChange={(e) => setEmail(e.target.value)}
							/>
							{me.hasPassword && <Old value={password} onChange={setPassword} />}
						</>
					)}
					<p className="flex gap-3">
						<button type="submit" className="button button-main" disabled={ask.isPending || use.isPending}>
							{ask.isSuccess ? "Change email" : "Send code"}
						</button>
						<button type="button" className="button" onClick={() => setOpen(false)}>
							Cancel
						</button>
					</p>
				</form>
			)}
		</Section>
	);
}

function Old({ value, onChange }: { value: string; onChange: (v: string) => void }) {
	return (
		<Field
			label="Current password"
			type="password"
			autoComplete="current-password"
			value={value}
			onChange={(e) => onChange(e.target.value)}
		/>
	);
}

function Password({ me }: { me: Me }) {
	const client = useQueryClient();
	const [old, setOld] = useState("");
	const [next, setNext] = useState("");
	const [open, setOpen] = useState(false);
	const save = useMutation({
		mutationFn: () => post("/me/password", { old: old || undefined, new: next }),
		onSuccess: async () => {
			setOpen(false);
			setOld("");
			setNext("");
			await client.invalidateQueries({ queryKey: ["me"] });
		},
	});
	return (
		<Section title="Password">
			<Done show={save.isSuccess && !open}>Your password is set. You are signed out everywhere else.</Done>
			{!open ? (
				<p>
					<button type="button" className="button" onClick={() => setOpen(true)}>
						{me.hasPassword ? "Change password" : "Set password"}
					</button>
				</p>
			) : (
				<form className="form-card" onSubmit={sending(() => save.mutate())} noValidate>
					<Trouble error={save.error} />
					{me.hasPassword && <Old value={old} onChange={setOld} />}
					<NewPassword label="New password" value={next} onChange={setNext} />
					<p className="flex gap-3">
						<button type="submit" className="button button-main" disabled={save.isPending}>
							Set password
						</button>
						<button type="button" className="button" onClick={() => setOpen(false)}>
							Cancel
						</button>
					</p>
				</form>
			)}
		</Section>
	);
}

/** What a browser says of itself, in a few words. */
function browserOf(agent: string): string {
	const name = /Firefox|Edg|Chrome|Safari/.exec(agent)?.[0]?.replace("Edg", "Edge") ?? "A browser";
	const system = /Android|iPhone|iPad|Windows|Macintosh|Linux/.exec(agent)?.[0];
	return system ? `${name} on ${system.replace("Macintosh", "a Mac")}` : name;
}

function Sessions({ me }: { me: Me }) {
	const client = useQueryClient();
	const end = useMutation({
		mutationFn: (id: string) => post("/me/sessions/end", { id: id || undefined }),
		onSuccess: () => client.invalidateQueries({ queryKey: ["me"] }),
	});
	return (
		<Section title="Where you are signed in">
			<Trouble error={end.error} />
			<ul className="grid gap-2">
				{me.sessions.map((s) => (
					<li key={s.id} className="flex flex-wrap items-center gap-x-4 gap-y-1 justify-between">
						<span>
							{browserOf(s.agent)}
							{s.here && <strong>, this one</strong>}
							<span className="block text-soft text-sm">
								Since {moment(s.since)}, last used {moment(s.seen)}
							</span>
						</span>
						{!s.here && (
							<button type="button" className="button" onClick={() => end.mutate(s.id)}>
								Sign out
							</button>
						)}
					</li>
				))}
			</ul>
			{me.sessions.length > 1 && (
				<p>
					<button type="button" className="button" onClick={() => end.mutate("")}>
						Sign out everywhere else
					</button>
				</p>
			)}
		</Section>
	);
}

function Closing({ me }: { me: Me }) {
	const [open, setOpen] = useState(false);
	const [password, setPassword] = useState("");
	const client = useQueryClient();
	const navigate = useNavigate();
	const close = useMutation({
		mutationFn: () => post("/me/close", { password: password || undefined }),
		onSuccess: async () => {
			navigate("/");
			await client.resetQueries();
		},
	});
	return (
		<Section title="Close account">
			<Trouble error={close.error} />
			<p>
				{me.closing === "delete"
					? "This signs you out everywhere and deletes your record."
					: "This signs you out everywhere, and you can’t sign in again. Your record stays."}
			</p>
			{open ? (
				<form className="form-card" onSubmit={sending(() => close.mutate())} noValidate>
					{me.hasPassword && <Old value={password} onChange={setPassword} />}
					<p className="flex flex-wrap gap-3">
						<button type="submit" className="button button-danger" disabled={close.isPending}>
							Close account
						</button>
						<button type="button" className="button" onClick={() => setOpen(false)}>
							Cancel
						</button>
					</p>
				</form>
			) : (
				<p>
					<button type="button" className="button" onClick={() => setOpen(true)}>
						Close account …
					</button>
				</p>
			)}
		</Section>
	);
}
