import { type FormEvent, lazy, type ReactNode, Suspense, useContext, useState } from "react";
import { wordsOf } from "../../shared/api/client";
import { onStage, type Form as Shown } from "../place";
import { type BlockProps, BlockView } from ".";
import { Arranging } from "./form/after";
import type { Scenario } from "./form/Calculated";
import { rowOf } from "./form/filled";
import { QuestionView } from "./form/QuestionView";
import { type Place, review } from "./form/steps";
import { type Filling, type Send, useFilling } from "./form/use";
import "./form/form.css";

/** What only some forms have. */
const Calculated = lazy(() => import("./form/Calculated"));
const ResultView = lazy(() => import("./form/Calculated").then((m) => ({ default: m.ResultView })));
const CourseView = lazy(() => import("./form/Calculated").then((m) => ({ default: m.CourseView })));
const With = lazy(() => import("./form/Lines"));
const LineOfSteps = lazy(() => import("./form/LineOfSteps").then((m) => ({ default: m.LineOfSteps })));
const Opened = lazy(() => import("./form/Opened").then((m) => ({ default: m.Opened })));
const Rehearsal = lazy(() => import("./form/Rehearsal"));
const Review = lazy(() => import("./form/Review").then((m) => ({ default: m.Review })));

/** A form on a screen of the gate, or in a profile, with what else stands there. */
export interface Around {
	head: ReactNode;
	/** What stands above its questions, and below them. */
	above?: ReactNode;
	below?: ReactNode;
	/** What stands beside its button. */
	beside?: ReactNode;
	submit?: string;
	/** It is only looked at. */
	still?: boolean;
	/** There is nothing to send. */
	shows?: boolean;
	narrow?: boolean;
	/** Sends the answers, otherwise than those of forms on pages are sent. */
	send?: Send;
}

type FormProps = Omit<BlockProps<"form">, "block"> & { block: Shown; around?: Around };

/** A form. The server decides what is asked, and what is right; what it finds wrong is shown at the question. */
export default function Form(props: FormProps) {
	const asks = <Questions key={props.block.revision} {...props} />;
	return props.block.opens ? <Opened text={props.block.opens ?? ""}>{asks}</Opened> : asks;
}

function Questions({ block: form, where, around }: FormProps) {
	const filling = useFilling(form, where, around?.send);
	const { steps, step, n, goTo, failed, blocks } = filling;
	const [kept, setKept] = useState<Scenario[]>([]); // they outlive a step
	const last = n >= steps.length - 1;
	const submit = (e: FormEvent) => {
		e.preventDefault();
		if (last && form.still) return;
		if (last) filling.send();
		else filling.next();
	};
	if (!around && (form.order.length === 0 || (filling.questions.length === 0 && !form.live)))
		return <p className="empty">There is nothing for you to fill in here.</p>;
	return (
		<form
			data-kind={form.kind}
			className={`card form-card ${around ? (around.narrow ? "w-full max-w-md mx-auto" : "max-w-none") : ""}`}
			onSubmit={submit}
			noValidate
		>
			{around?.head}
			{failed && (
				<p role="alert" className="note note-bad">
					{wordsOf(failed)}
				</p>
			)}
			{filling.before && !failed && (
				<p className="note">
					What you answered before is still here.{" "}
					<button type="button" className="text-link" onClick={filling.startOver}>
						Start over
					</button>
				</p>
			)}
			{n === 0 && around?.above}
			{steps.length > 1 && (
				<>
					<Suspense fallback={null}>
						<LineOfSteps steps={steps} at={n} onGo={(to) => goTo(steps[to])} />
					</Suspense>
					<h2
						id={`${form.id}-title`}
						className="form-title"
						tabIndex={-1}
						data-block={onStage && step?.id !== review ? step?.id : undefined}
					>
						{step?.title}
					</h2>
				</>
			)}
			{step?.id === review ? (
				<Suspense fallback={<p className="text-soft">Loading …</p>}>
					<Review filling={filling} />
				</Suspense>
			) : form.kind === "calculator" && step?.places.some((p) => blocks.get(p.id)?.kind === "result") ? (
				<Suspense fallback={<p className="text-soft">Loading …</p>}>
					<Calculated filling={filling} places={step.places} View={PlaceView} kept={kept} setKept={setKept} />
				</Suspense>
			) : (
				step?.places.map((p) => <PlaceView key={p.id} filling={filling} place={p} />)
			)}
			{form.stamp && (
				<p className="sr-only" aria-hidden="true">
					<label>
						Website
						<input
							name="website"
							tabIndex={-1}
							autoComplete="off"
							value={filling.website}
							onChange={(e) => filling.setWebsite(e.target.value)}
						/>
					</label>
				</p>
			)}
			{last && around?.below}
			<p className="form-acts" hidden={around?.shows || (form.still && steps.length === 1)}>
				{n > 0 && (
					<button type="button" className="button" onClick={() => goTo(steps[n - 1])}>
						Back
					</button>
				)}
				{!(last && form.still) && (
					<button type="submit" className="button button-main" disabled={filling.busy || (last && around?.still)}>
						{filling.sending ? "Sending …" : last ? around?.submit || form.submit || "Send" : "Next"}
					</button>
				)}
				{around?.beside}
			</p>
			{onStage && last && !around?.still && !form.still && (
				<Suspense>
					<Rehearsal filling={filling} />
				</Suspense>
			)}
		</form>
	);
}

/** What stands in the form at a place, where it is shown; the builder arranges it. */
function PlaceView(props: { filling: Filling; place: Place }) {
	const Arranged = useContext(Arranging);
	const shown = <ShownPlace {...props} />;
	const { form, state } = props.filling;
	return Arranged && state.parts[props.place.id] ? (
		<Arranged form={form} place={props.place}>
			{shown}
		</Arranged>
	) : (
		shown
	);
}

function ShownPlace({ filling, place }: { filling: Filling; place: Place }) {
	const { state, blocks, where, questions } = filling;
	const part = state.parts[place.id];
	if (!part) return null;
	if (place.with)
		return (
			<Suspense fallback={<p className="text-soft">Loading …</p>}>
				<With filling={filling} place={place} />
			</Suspense>
		);
	if (place.of)
		return (
			<section className="form-section" data-block={onStage ? place.id : undefined}>
				{part.title && <h3>{part.title}</h3>}
				{place.of.map((p) => (
					<PlaceView key={p.id} filling={filling} place={p} />
				))}
			</section>
		);
	const between = blocks.get(place.id);
	if (between?.kind === "result" || between?.kind === "course")
		return (
			<Suspense fallback={null}>
				{between.kind === "result" ? (
					<ResultView filling={filling} block={between} />
				) : (
					<CourseView filling={filling} block={between} />
				)}
			</Suspense>
		);
	if (between) return <BlockView block={between} where={where} />;
	const q = questions.find((x) => x.id === place.id);
	return q ? <QuestionView filling={filling} slot={{ path: q.column.id, q, part, row: rowOf(q) }} /> : null;
}
