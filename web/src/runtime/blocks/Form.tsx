import { type FormEvent, lazy, Suspense } from "react";
import { wordsOf } from "../../shared/api/client";
import { onStage } from "../place";
import { type BlockProps, BlockView } from ".";
import { lineSlots, rowOf } from "./form/filled";
import { QuestionView } from "./form/QuestionView";
import { type Place, review } from "./form/steps";
import { type Filling, useFilling } from "./form/use";
import "./form/form.css";

/** What only some forms have. */
const Lines = lazy(() => import("./form/Lines").then((m) => ({ default: m.Lines })));
const LineOfSteps = lazy(() => import("./form/LineOfSteps").then((m) => ({ default: m.LineOfSteps })));
const Review = lazy(() => import("./form/Review").then((m) => ({ default: m.Review })));

/** A form. The server decides what is asked, and what is right; what it finds wrong is shown at the question. */
export default function Form(props: BlockProps<"form">) {
	return <Questions key={props.block.revision} {...props} />;
}

function Questions({ block: form, where }: BlockProps<"form">) {
	const filling = useFilling(form, where);
	const { steps, step, n, goTo, failed } = filling;
	const last = n >= steps.length - 1;
	const submit = (e: FormEvent) => {
		e.preventDefault();
		if (last) filling.send();
		else filling.next();
	};
	if (form.order.length === 0 || (filling.questions.length === 0 && !form.live))
		return <p className="empty">There is nothing for you to fill in here.</p>;
	return (
		<form className="card form-card" onSubmit={submit} noValidate>
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
			<p className="form-acts">
				{n > 0 && (
					<button type="button" className="button" onClick={() => goTo(steps[n - 1])}>
						Back
					</button>
				)}
				<button type="submit" className="button button-main" disabled={filling.busy}>
					{filling.sending ? "Sending …" : last ? form.submit || "Send" : "Next"}
				</button>
				{onStage && last && (
					<button type="button" className="text-link" onClick={filling.rehearse}>
						Rehearse sending
					</button>
				)}
			</p>
			{filling.rehearsed && !failed && (
				<p className="note" role="status">
					{filling.rehearsed.rehearsed?.join(" ")} Then it says: “{filling.rehearsed.thanks}” Nothing was kept.
				</p>
			)}
		</form>
	);
}

/** What stands in the form at a place, where it is shown. */
function PlaceView({ filling, place }: { filling: Filling; place: Place }) {
	const { state, blocks, where, questions } = filling;
	const part = state.parts[place.id];
	if (!part) return null;
	if (place.with === "lines")
		return (
			<Suspense fallback={<p className="text-soft">Loading …</p>}>
				<Lines filling={filling} place={place} />
			</Suspense>
		);
	if (place.of)
		return (
			<section className="form-section" data-block={onStage ? place.id : undefined}>
				{part.title && <h3>{part.title}</h3>}
				{place.of.map((p) =>
					place.with ? (
						<WithView key={p.id} filling={filling} place={place} of={p} />
					) : (
						<PlaceView key={p.id} filling={filling} place={p} />
					),
				)}
			</section>
		);
	const between = blocks.get(place.id);
	if (between) return <BlockView block={between} where={where} />;
	const q = questions.find((x) => x.id === place.id);
	return q ? <QuestionView filling={filling} slot={{ path: q.column.id, q, part, row: rowOf(q) }} /> : null;
}

/** What stands among the questions about a record that goes with the form. */
function WithView({ filling, place, of }: { filling: Filling; place: Place; of: Place }) {
	const line = filling.filled.lines[place.id]?.[0];
	const between = filling.blocks.get(of.id);
	if (between) return <BlockView block={between} where={filling.where} />;
	const slot = line && lineSlots(place, line, filling.state, filling.questions).find((s) => s.q.id === of.id);
	return slot ? <QuestionView filling={filling} slot={slot} line={line} /> : null;
}
