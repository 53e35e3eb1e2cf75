import type { ReactNode } from "react";
import type { Told } from "../api";
import { Attached } from "../ui";
import { type At, roundsOf } from "./walk";

interface StateProps {
	at: At;
	steps: Told[];
	/** Number of the step at which one is. */
	step: number;
	after: boolean;
	watches: string[];
	error?: string;
}

/** How things are before a step, or after it. */
export function State({ at, steps, step: n, after, watches, error }: StateProps) {
	const step = steps[n];
	const seen = after ? step : steps[n - 1];
	return (
		<div className="grid gap-4 max-h-[60vh] overflow-auto" aria-live="polite">
			<p className="font-medium">{after ? "After this step" : "Before this step"}</p>
			{error && (
				<div className="note-bad">
					<p>{error}</p>
					<p className="text-soft">What was done since the last wait was taken back.</p>
				</div>
			)}
			{step && step.looked.length > 0 && (
				<Part title="Its condition looked at">
					<Pairs>
						{step.looked.map((l) => (
							<Pair key={l.name} name={l.name} shown={l.shown} />
						))}
					</Pairs>
				</Part>
			)}
			{watches.length > 0 && (
				<Part title="Watched">
					<Pairs>
						{watches.map((w, i) => (
							<Watched key={w} watch={w} shown={seen?.watched?.[i]} rounds={roundsOf(steps, n, i)} />
						))}
					</Pairs>
				</Part>
			)}
			{at.known.length > 0 && (
				<Part title="Values">
					<Pairs>
						{at.known.map((k) => (
							<Pair key={k.name} name={`the ${k.name}`} shown={k.shown} fresh={k.fresh} />
						))}
					</Pairs>
				</Part>
			)}
			<Part title="Records">
				{at.records.length === 0 && <p className="text-soft">Nothing is written so far.</p>}
				{at.records.map((r) => (
					<div key={r.record} className="mt-1">
						<p>
							<span className={r.fresh ? "font-semibold" : ""}>{r.label || "a record"}</span>{" "}
							<span className="text-soft">
								in {r.table}, {r.kind}
							</span>
						</p>
						<div className="pl-3 border-l border-line">
							<Pairs>
								{r.fields.map((f) => (
									<Pair
										key={f.name}
										name={f.name}
										shown={f.after}
										was={r.kind === "changed" ? f.before : undefined}
										fresh={f.fresh}
									/>
								))}
							</Pairs>
						</div>
					</div>
				))}
			</Part>
			{at.calls.length > 0 && (
				<Part title="Services">
					{at.calls.map((c, i) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: calls have no other order
						<div key={i} className="border border-line rounded-md p-2 mt-1 grid gap-1">
							<p className={c.fresh ? "font-semibold" : "font-medium"}>
								{c.service}: {c.name}
							</p>
							<p className="font-mono text-sm break-all">
								{c.asked} {c.body}
							</p>
							{c.problem && <p className="note-bad">{c.problem}</p>}
							{c.answer && (
								<>
									<p className="text-soft">{c.sample ? "Its sample answer is used" : "It answered"}</p>
									<pre className="whitespace-pre-wrap break-all text-sm max-h-40 overflow-auto">{c.answer}</pre>
								</>
							)}
						</div>
					))}
				</Part>
			)}
			{at.mails.length > 0 && (
				<Part title="Emails">
					{at.mails.map((m, i) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: mails have no other order
						<div key={i} className="border border-line rounded-md p-2 mt-1">
							<p className={m.fresh ? "font-semibold" : "font-medium"}>{m.subject}</p>
							<p className="text-soft">to {m.to.join(", ") || "no one: the address is empty"}</p>
							{m.left && <p className="text-soft">not to {m.left.join(", ")}, who unsubscribed</p>}
							<pre className="whitespace-pre-wrap font-sans mt-1">{m.plain}</pre>
							<Attached shown={m.shown} files={m.files} />
						</div>
					))}
				</Part>
			)}
		</div>
	);
}

function Part({ title, children }: { title: string; children: ReactNode }) {
	return (
		<section>
			<h4 className="font-semibold">{title}</h4>
			{children}
		</section>
	);
}

const Pairs = ({ children }: { children: ReactNode }) => (
	<dl className="grid grid-cols-[auto_1fr] gap-x-4">{children}</dl>
);

/** A value with its name: empty is told apart from not made yet. */
function Pair({ name, shown, was, fresh }: { name: string; shown?: string; was?: string; fresh?: boolean }) {
	return (
		<>
			<dt className="text-soft">{name}</dt>
			<dd className={fresh ? "font-semibold" : ""}>
				{was !== undefined && <s className="text-soft font-normal mr-2">{was || "empty"}</s>}
				{shown === undefined ? (
					<i className="text-soft">not yet made</i>
				) : (
					shown || <span className="text-soft">empty</span>
				)}
			</dd>
		</>
	);
}

/** What is watched, and how it was over the rounds of the loop in which one is. */
function Watched(p: { watch: string; shown?: string; rounds: { round: number; shown: string }[] }) {
	return (
		<>
			<dt className="font-mono text-sm">{p.watch}</dt>
			<dd>
				{p.shown === undefined ? (
					<i className="text-soft">not yet</i>
				) : (
					p.shown || <span className="text-soft">empty</span>
				)}
				{p.rounds.length > 0 && (
					<ol className="text-soft" aria-label={`${p.watch} in each round`}>
						{p.rounds.map((r) => (
							<li key={r.round}>
								round {r.round + 1}: {r.shown || "empty"}
							</li>
						))}
					</ol>
				)}
			</dd>
		</>
	);
}
