import type { BlockOf } from "../../place";
import { type Measure, towards, written } from "./told";

/** What a number is to its target: where it is met, and where it is not. */
const states = { least: ["reached", "so far"], most: ["within", "over"], between: ["within", "outside"] };

/** What a number is to come to, in words. */
export function aimText(measure: Measure): string {
	const { goal } = measure;
	if (!goal?.at) return "";
	return goal.kind === "between"
		? `between ${written(goal.at, measure)} and ${written(goal.to ?? null, measure)}`
		: `at ${goal.kind} ${written(goal.at, measure)}`;
}

/** How far a number is towards its target. */
export function Goal({ measure, value }: { measure: BlockOf<"figure">["measures"][number]; value?: string | null }) {
	const { goal } = measure;
	if (!goal?.at) return null;
	const at = towards(value, goal);
	return (
		<div
			className="figure-goal"
			data-met={at?.met}
			data-over={at && !at.met && goal.kind === "most" ? true : undefined}
			data-ring={goal.ring && goal.kind !== "between" ? true : undefined}
		>
			{at && goal.kind !== "between" && goal.ring && <GoalRing part={at.part} />}
			{at && goal.kind !== "between" && !goal.ring && (
				<span className="measure-bar" aria-hidden="true">
					<span style={{ width: `${bounded(at.part) * 100}%` }} />
				</span>
			)}
			<span>
				{at && goal.kind !== "between" && <b>{Math.round(at.part * 100)} % </b>}
				{at && states[goal.kind][at.met ? 0 : 1]}, {aimText(measure)}
				{goal.left ? ` · ${goal.left} ${goal.left === 1 ? "day" : "days"} left` : ""}
			</span>
		</div>
	);
}

const bounded = (part: number) => Math.min(Math.max(part, 0), 1);

/** How far a number is, as a ring. */
function GoalRing({ part }: { part: number }) {
	const around = 2 * Math.PI * 20;
	return (
		<svg viewBox="0 0 48 48" className="goal-ring" aria-hidden="true">
			<circle cx="24" cy="24" r="20" className="goal-ring-whole" />
			<circle
				cx="24"
				cy="24"
				r="20"
				className="goal-ring-part"
				strokeDasharray={`${around * bounded(part)} ${around}`}
			/>
		</svg>
	);
}
