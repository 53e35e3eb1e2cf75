import { ArrowLeft, ArrowRight } from "lucide-react";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { Told } from "../api";
import { type At, didWhat, stateAt } from "./walk";

/** A run, or a rehearsal, to be walked forwards and backwards. */
export function Walk({ steps, error }: { steps: Told[]; error?: string }) {
	const [at, setAt] = useState(error ? steps.length - 1 : 0);
	const [after, setAfter] = useState(true);
	const list = useRef<HTMLOListElement>(null);
	useEffect(() => {
		list.current?.querySelector(`[data-at="${at}"]`)?.scrollIntoView({ block: "nearest" });
	}, [at]);
	if (steps.length === 0) return <p className="text-soft">It has no steps yet. Add some in the script.</p>;
	const go = (to: number) => setAt(Math.min(Math.max(to, 0), steps.length - 1));
	const keys = (e: KeyboardEvent) => {
		const to = {
			ArrowDown: at + 1,
			ArrowRight: at + 1,
			ArrowUp: at - 1,
			ArrowLeft: at - 1,
			Home: 0,
			End: steps.length - 1,
		}[e.key];
		if (to === undefined || (e.target as HTMLElement).tagName === "INPUT") return;
		e.preventDefault();
		go(to);
	};
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the keys are those of the buttons inside
		<div className="grid gap-3 min-h-0" onKeyDown={keys} data-walk>
			<div className="flex items-center gap-2 flex-wrap">
				<button type="button" className="btn" onClick={() => go(at - 1)} disabled={at === 0}>
					<ArrowLeft size={14} aria-hidden /> Back
				</button>
				<button type="button" className="btn" onClick={() => go(at + 1)} disabled={at === steps.length - 1}>
					Forward <ArrowRight size={14} aria-hidden />
				</button>
				<input
					type="range"
					className="flex-1 min-w-24 accent-(--pine)"
					aria-label="Step"
					min={0}
					max={steps.length - 1}
					value={at}
					onChange={(e) => go(Number(e.target.value))}
				/>
				<span className="text-soft tabular-nums">
					{at + 1} of {steps.length}
				</span>
				<span className="flex border border-line rounded-md overflow-hidden">
					{[false, true].map((x) => (
						<button
							key={String(x)}
							type="button"
							className={`px-2 py-1 ${after === x ? "bg-ground font-semibold" : "text-soft"}`}
							aria-pressed={after === x}
							onClick={() => setAfter(x)}
						>
							{x ? "After the step" : "Before the step"}
						</button>
					))}
				</span>
			</div>
			<div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-4 items-start">
				<ol
					ref={list}
					className="grid border border-line rounded-md bg-surface max-h-[60vh] overflow-auto"
					aria-label="Steps"
				>
					{steps.map((s, i) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: a step can come several times, always in this order
						<li key={i} data-at={i} style={{ paddingLeft: `${s.rounds.length * 1.25}rem` }}>
							<button
								type="button"
								className={`w-full text-left px-3 py-1.5 border-l-[3px] ${i === at ? "border-pine bg-ground" : "border-transparent"}`}
								aria-current={i === at ? "step" : undefined}
								onClick={() => go(i)}
							>
								<Row step={s} stopped={error !== undefined && i === steps.length - 1} />
							</button>
						</li>
					))}
				</ol>
				<State
					at={stateAt(steps, at, after)}
					step={steps[at]}
					after={after}
					error={at === steps.length - 1 ? error : undefined}
				/>
			</div>
		</div>
	);
}

function Row({ step: s, stopped }: { step: Told; stopped: boolean }) {
	const quiet = s.what === "passed over" || s.what === "left";
	const words =
		s.what === "round" ? `Round ${(s.rounds.at(-1) ?? 0) + 1}` : s.sentence || "A step that is not there any more";
	const did = stopped ? "stopped here" : didWhat(s);
	return (
		<>
			<span className={`line-clamp-2 ${quiet ? "text-soft" : ""}`}>{words}</span>
			{did && <span className={`text-sm ${stopped ? "text-berry font-medium" : "text-soft"}`}>{did}</span>}
		</>
	);
}

interface StateProps {
	at: At;
	step?: Told;
	after: boolean;
	error?: string;
}

function State({ at, step, after, error }: StateProps) {
	return (
		<div className="grid gap-4 max-h-[60vh] overflow-auto" aria-live="polite">
			<p className="font-medium">{after ? "After this step" : "Before this step"}</p>
			{error && <p className="note-bad">{error}</p>}
			{step && step.looked.length > 0 && (
				<section>
					<h4 className="font-semibold">Its condition looked at</h4>
					<dl className="grid grid-cols-[auto_1fr] gap-x-4">
						{step.looked.map((l) => (
							<Pair key={l.name} name={l.name} shown={l.shown} />
						))}
					</dl>
				</section>
			)}
			{at.known.length > 0 && (
				<section>
					<h4 className="font-semibold">Values</h4>
					<dl className="grid grid-cols-[auto_1fr] gap-x-4">
						{at.known.map((k) => (
							<Pair key={k.name} name={`the ${k.name}`} shown={k.shown} fresh={k.fresh} />
						))}
					</dl>
				</section>
			)}
			<section>
				<h4 className="font-semibold">Records</h4>
				{at.records.length === 0 && <p className="text-soft">Nothing is written so far.</p>}
				{at.records.map((r) => (
					<div key={r.record} className={`mt-1 ${r.fresh ? "" : "opacity-80"}`}>
						<p>
							<span className={r.fresh ? "font-semibold" : ""}>{r.label || "a record"}</span>{" "}
							<span className="text-soft">
								in {r.table}, {r.kind}
							</span>
						</p>
						<dl className="grid grid-cols-[auto_1fr] gap-x-4 pl-3 border-l border-line">
							{r.fields.map((f) => (
								<Pair
									key={f.name}
									name={f.name}
									shown={f.after}
									was={r.kind === "changed" ? f.before : undefined}
									fresh={f.fresh}
								/>
							))}
						</dl>
					</div>
				))}
			</section>
			{at.mails.length > 0 && (
				<section>
					<h4 className="font-semibold">Emails</h4>
					{at.mails.map((m, i) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: mails have no other order
						<div key={i} className={`border border-line rounded-md p-2 mt-1 ${m.fresh ? "" : "opacity-80"}`}>
							<p className="font-medium">{m.subject}</p>
							<p className="text-soft">to {m.to.join(", ") || "no one: the address is empty"}</p>
							<pre className="whitespace-pre-wrap font-sans mt-1">{m.plain}</pre>
						</div>
					))}
				</section>
			)}
		</div>
	);
}

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
