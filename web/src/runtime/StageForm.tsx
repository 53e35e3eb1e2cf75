import { Plus } from "lucide-react";
import { createContext, type DragEvent, type KeyboardEvent, type ReactNode, useContext, useState } from "react";
import type { Place } from "./blocks/form/steps";
import type { Form } from "./place";
import { tellAdd, tellMove, tellRemove } from "./stage";

/** Where something stands in a form: in what, and the how manieth of how many it is. */
interface Spot {
	into: string;
	at: number;
	among: number;
}

/** Finds where something stands in a form, also in its sections. */
export function spotOf(id: string, places: Place[], into: string): Spot | null {
	for (const [at, p] of places.entries()) {
		if (p.id === id) return { into, at, among: places.length };
		const inside = spotOf(id, p.of ?? [], p.id);
		if (inside) return inside;
	}
	return null;
}

/** The kind of what is dragged: a form takes only what is its own. */
const dragged = (form: Form) => `application/x-pinegate-form-${form.id.toLowerCase()}`;

/** Beneath or above which question something is held, so that only one of them shows it. */
const Held = createContext<{ over: string; setOver: (over: string) => void }>({ over: "", setOver: () => {} });

export function HeldInForms({ children }: { children: ReactNode }) {
	const [over, setOver] = useState("");
	return <Held.Provider value={{ over, setOver }}>{children}</Held.Provider>;
}

/** A question, a section or words of a form as the builder arranges them: dragged, moved by keys, and removed. */
export function Arranged({ form, place, children }: { form: Form; place: Place; children: ReactNode }) {
	const { over, setOver } = useContext(Held);
	const spot = spotOf(place.id, form.order, form.id);
	if (!spot) return children;
	const { into, at, among } = spot;
	const here = (e: DragEvent) => {
		if (!e.dataTransfer.types.includes(dragged(form))) return false;
		e.preventDefault();
		e.stopPropagation();
		return true;
	};
	const below = (e: DragEvent) => {
		const box = e.currentTarget.getBoundingClientRect();
		return e.clientY > box.top + box.height / 2;
	};
	const drop = (e: DragEvent) => {
		if (!here(e)) return;
		setOver("");
		const id = e.dataTransfer.getData(dragged(form));
		const from = spotOf(id, form.order, form.id);
		if (!from || id === place.id || spotOf(place.id, placeIn(form.order, id)?.of ?? [], id)) return;
		const wanted = below(e) ? at + 1 : at;
		const to = from.into === into && from.at < wanted ? wanted - 1 : wanted;
		if (from.into !== into) tellMove(id, to, into);
		else if (to !== from.at) tellMove(id, to);
	};
	const keys = (e: KeyboardEvent) => {
		if (e.target !== e.currentTarget) return;
		const to = at + (e.key === "ArrowUp" ? -1 : e.key === "ArrowDown" ? 1 : 0);
		if (e.altKey && to !== at) {
			if (to >= 0 && to < among) tellMove(place.id, to);
		} else if (e.key === "Delete") tellRemove(place.id);
		else return;
		e.preventDefault();
		e.stopPropagation();
	};
	const held = over === `${place.id} above` ? "stage-above" : over === `${place.id} below` ? "stage-below" : "";
	return (
		// biome-ignore lint/a11y/useSemanticElements: a group holds whatever stands there
		<div
			role="group"
			aria-label={`${place.of ? "Section" : "Question"} ${at + 1} of ${among} in the form. Alt with up and down moves it, Delete removes it.`}
			// biome-ignore lint/a11y/noNoninteractiveTabindex: it is moved by keys
			tabIndex={0}
			draggable
			className={`stage-question ${held}`}
			onKeyDown={keys}
			onDragStart={(e) => {
				e.stopPropagation();
				if (e.currentTarget.contains(document.activeElement) && document.activeElement !== e.currentTarget) {
					e.preventDefault(); // somebody writes in it
					return;
				}
				e.dataTransfer.effectAllowed = "move";
				e.dataTransfer.setData(dragged(form), place.id);
			}}
			onDragOver={(e) => here(e) && setOver(`${place.id} ${below(e) ? "below" : "above"}`)}
			onDragLeave={() => setOver("")}
			onDrop={drop}
		>
			{children}
			{at === among - 1 && (
				<p className="stage-more">
					<button
						type="button"
						className="stage-plus"
						onClick={(e) => {
							e.stopPropagation();
							tellAdd(into, among);
						}}
					>
						<Plus size={14} aria-hidden /> <span>Add a question</span>
					</button>
				</p>
			)}
		</div>
	);
}

/** What stands in a form under an id. */
function placeIn(places: Place[], id: string): Place | undefined {
	for (const p of places) {
		const found = p.id === id ? p : placeIn(p.of ?? [], id);
		if (found) return found;
	}
}
