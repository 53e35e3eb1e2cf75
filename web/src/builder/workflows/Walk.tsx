import { ArrowLeft, ArrowRight, Circle, CircleDot, SkipBack, SkipForward } from "lucide-react";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { Told } from "../api";
import { useMarks } from "./kept";
import { State } from "./State";
import { byKey, continueFrom, didWhat, stateAt } from "./walk";

interface WalkProps {
	steps: Told[];
	/** Ids of the app and of the workflow, for which its breakpoints are kept. */
	app: string;
	flow: string;
	error?: string;
	/** What is watched, in the order of what the steps have. */
	watches?: string[];
}

/** A run, or a rehearsal, to be walked forwards and backwards. */
export function Walk({ steps, app, flow, error, watches = [] }: WalkProps) {
	const [at, setAt] = useState(error ? steps.length - 1 : 0);
	const [after, setAfter] = useState(true);
	const [{ breakpoints: kept, off }, mark] = useMarks(app, flow);
	const list = useRef<HTMLOListElement>(null);
	useEffect(() => {
		list.current?.querySelector(`[data-at="${at}"]`)?.scrollIntoView({ block: "nearest" });
	}, [at]);
	if (steps.length === 0) return <p className="text-soft">It has no steps yet. Add some in the script.</p>;
	const marked = new Set(kept);
	const resting = new Set(off);
	const breaks = new Set(kept.filter((s) => !resting.has(s)));
	const here = steps[at]?.step ?? "";
	const go = (to: number) => setAt(Math.min(Math.max(to, 0), steps.length - 1));
	const toggle = (step: string) =>
		mark({
			breakpoints: marked.has(step) ? kept.filter((s) => s !== step) : [...kept, step],
			off: off.filter((s) => s !== step),
		});
	const rest = (step: string) => mark({ off: resting.has(step) ? off.filter((s) => s !== step) : [...off, step] });
	const keys = (e: KeyboardEvent) => {
		if ((e.target as HTMLElement).tagName === "INPUT" && !e.key.startsWith("F")) return;
		const to = e.key === "F9" ? at : byKey(e, steps, at, breaks);
		if (to === undefined) return;
		e.preventDefault();
		if (e.key !== "F9") go(to);
		else if (!e.shiftKey) toggle(here);
		else if (marked.has(here)) rest(here);
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
			<div className="flex items-center gap-2 flex-wrap">
				<button type="button" className="btn" aria-pressed={marked.has(here)} title="F9" onClick={() => toggle(here)}>
					<CircleDot size={14} aria-hidden /> {marked.has(here) ? "Remove breakpoint" : "Add breakpoint"}
				</button>
				{marked.has(here) && (
					<button type="button" className="btn" title="Shift+F9" onClick={() => rest(here)}>
						{resting.has(here) ? "Switch it on" : "Switch it off"}
					</button>
				)}
				{breaks.size > 0 && (
					<>
						<button
							type="button"
							className="btn"
							title="Shift+F5"
							onClick={() => go(continueFrom(steps, at, breaks, false))}
						>
							<SkipBack size={14} aria-hidden /> Continue back
						</button>
						<button type="button" className="btn" title="F5" onClick={() => go(continueFrom(steps, at, breaks, true))}>
							Continue <SkipForward size={14} aria-hidden />
						</button>
					</>
				)}
				{kept.length > 0 && (
					<>
						<button type="button" className="link-button" onClick={() => mark({ off: breaks.size > 0 ? kept : [] })}>
							{breaks.size > 0 ? "Switch all off" : "Switch all on"}
						</button>
						<button type="button" className="link-button" onClick={() => mark({ breakpoints: [], off: [] })}>
							Remove all
						</button>
					</>
				)}
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
								<Row
									step={s}
									stopped={error !== undefined && i === steps.length - 1}
									breaks={marked.has(s.step) ? (resting.has(s.step) ? "off" : "on") : undefined}
								/>
							</button>
						</li>
					))}
				</ol>
				<State
					at={stateAt(steps, at, after)}
					steps={steps}
					step={at}
					after={after}
					watches={watches}
					error={at === steps.length - 1 ? error : undefined}
				/>
			</div>
		</div>
	);
}

function Row({ step: s, stopped, breaks }: { step: Told; stopped: boolean; breaks?: "on" | "off" }) {
	const quiet = s.what === "passed over" || s.what === "left";
	const words =
		s.what === "round" ? `Round ${(s.rounds.at(-1) ?? 0) + 1}` : s.sentence || "A step that is not there any more";
	const did = stopped ? "stopped here" : didWhat(s);
	return (
		<>
			<span className={`line-clamp-2 ${quiet ? "text-soft" : ""}`}>
				{breaks === "on" && <CircleDot size={12} className="inline mr-1 text-berry" aria-label="Breakpoint" />}
				{breaks === "off" && (
					<Circle size={12} className="inline mr-1 text-soft" aria-label="Breakpoint, switched off" />
				)}
				{words}
			</span>
			{did && <span className={`text-sm ${stopped ? "text-berry font-medium" : "text-soft"}`}>{did}</span>}
		</>
	);
}
