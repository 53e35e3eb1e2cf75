import type { FormState, Form as Shown } from "../../place";

export type Place = Shown["order"][number];

/** A step of a form: what stands in it, and in which of its sections. */
export interface Step {
	id: string;
	title: string;
	places: Place[];
}

export const review = "review"; // id of the step that shows all answers

/** The ids of what stands at places, and in what stands there. */
export const idsAt = (places: Place[]): string[] => places.flatMap((p) => [p.id, ...idsAt(p.of ?? [])]);

/**
 * The steps that are shown now. What stands beside steps makes a step of its own; a form without steps is one. With it
 * comes, where the form asks for that, one that shows all answers.
 */
export function stepsOf(form: Shown, state: FormState): Step[] {
	const out: Step[] = [];
	let beside: Step | undefined;
	for (const p of form.order) {
		if (!idsAt([p]).some((id) => state.parts[id])) continue;
		if (p.step) {
			beside = undefined;
			out.push({ id: p.id, title: state.parts[p.id]?.title ?? "", places: p.of ?? [] });
		} else if (beside) beside.places.push(p);
		else {
			beside = { id: p.id, title: "More", places: [p] };
			out.push(beside);
		}
	}
	if (form.review && out.length > 0) {
		if (beside && out.length === 1) beside.title = "Your answers";
		out.push({ id: review, title: "Check", places: [] });
	}
	return out;
}
