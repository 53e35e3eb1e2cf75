import { type ComponentProps, type FormEvent, type ReactNode, useEffect, useId, useState } from "react";
import { wordsOf } from "../../shared/api/client";
import { useTitle } from "../../shared/title";
import { onStage } from "../place";
import type { Gate } from "./api";

interface CardProps {
	title: string;
	text?: string;
	error?: unknown;
	onSubmit: () => void;
	children: ReactNode;
}

/** A form of the gate. On the stage it is only looked at. */
export function GateCard({ title, text, error, onSubmit, children }: CardProps) {
	const submit = (e: FormEvent) => {
		e.preventDefault();
		if (!onStage) onSubmit();
	};
	return (
		<form className="card form-card w-full max-w-md mx-auto" onSubmit={submit} noValidate>
			<GateHead title={title} text={text} />
			{error != null && (
				<p role="alert" className="note note-bad">
					{wordsOf(error)}
				</p>
			)}
			{children}
		</form>
	);
}

/** What stands at the top of a form of the gate. */
export function GateHead({ title, text }: { title: string; text?: string }) {
	useTitle(title);
	return (
		<>
			<h1 className="page-heading">{title}</h1>
			{text && <p className="text-soft whitespace-pre-line">{text}</p>}
			{onStage && <p className="note">This is how the page looks. No one can sign in or up here.</p>}
		</>
	);
}

type FieldProps = { label: string; help?: ReactNode; wrong?: string } & ComponentProps<"input">;

/** A labelled field. */
export function Field({ label, help, wrong, ...input }: FieldProps) {
	const id = useId();
	return (
		<div className="question">
			<label htmlFor={id}>{label}</label>
			<input
				id={id}
				className="field-input"
				aria-describedby={`${id}-note`}
				aria-invalid={wrong ? true : undefined}
				{...input}
			/>
			<p id={`${id}-note`} className={wrong ? "text-berry text-sm" : "text-soft text-sm"}>
				{wrong || help}
			</p>
		</div>
	);
}

/** The field for a code with six digits. */
export function CodeField(p: { value: string; onChange: (v: string) => void; label?: string; long?: boolean }) {
	return (
		<Field
			label={p.label ?? "Code from the email"}
			className="field-input tracking-widest"
			autoFocus
			inputMode={p.long ? undefined : "numeric"}
			autoComplete="one-time-code"
			maxLength={p.long ? 24 : 6}
			help={p.long ? undefined : "It works in this browser only."}
			value={p.value}
			onChange={(e) => p.onChange(e.target.value)}
		/>
	);
}

/** The field for a new password. */
export function NewPassword(p: { value: string; onChange: (v: string) => void; optional?: boolean; label?: string }) {
	return (
		<Field
			label={p.label ?? (p.optional ? "Password (optional)" : "Password")}
			help={
				p.optional
					? "At least 10 characters. Without one, we email you a code each time."
					: "At least 10 characters. A few unrelated words are easy to remember."
			}
			type="password"
			autoComplete="new-password"
			value={p.value}
			onChange={(e) => p.onChange(e.target.value)}
		/>
	);
}

const resendAfter = 30;

/** A button to have mail sent again, which has to wait for a while. */
export function SendAgain({ onSend, sentAt }: { onSend: () => void; sentAt: number }) {
	const [now, setNow] = useState(Date.now());
	const left = Math.ceil(resendAfter - (now - sentAt) / 1000);
	useEffect(() => {
		if (left <= 0) return;
		const timer = setInterval(() => setNow(Date.now()), 500);
		return () => clearInterval(timer);
	}, [left]);
	return (
		<button type="button" className="button" disabled={left > 0} onClick={onSend}>
			{left > 0 ? `Send again in ${left} s` : "Send again"}
		</button>
	);
}

/** What people accept when they sign up. */
export function Terms({
	terms,
	value,
	onChange,
}: {
	terms: Gate["terms"];
	value: boolean;
	onChange: (v: boolean) => void;
}) {
	if (!terms.version) return null;
	return (
		<div className="grid gap-2">
			<Fold title={`Terms, version ${terms.version}`} text={terms.text} />
			{terms.privacy && <Fold title="Privacy" text={terms.privacy} />}
			<label className="flex gap-2 items-start">
				<input type="checkbox" className="size-5 mt-0.5" checked={value} onChange={(e) => onChange(e.target.checked)} />
				<span>{terms.privacy ? "I accept the terms and the privacy notice." : "I accept the terms."}</span>
			</label>
		</div>
	);
}

function Fold({ title, text }: { title: string; text: string }) {
	return (
		<details className="border border-(--line) rounded-(--corner) px-3 py-2">
			<summary className="cursor-pointer font-semibold">{title}</summary>
			<p className="whitespace-pre-line mt-2 text-sm">{text}</p>
		</details>
	);
}
