import { createContext, type RefObject, useContext, useEffect, useRef, useState } from "react";
import type { BlockOf } from "../place";

export type Reaction = BlockOf<"part">["here"][number];
type Values = BlockOf<"part">["values"];

/** The values that a use of a part has for itself, and what sets them. */
interface OwnValues {
	values: Values;
	react: (to: Reaction[], on: Reaction["on"]) => void;
}

export const Own = createContext<OwnValues>({ values: {}, react: () => {} });

/** Begins the values of a use. What is to happen later is given up when the same value is set in between. */
export function useOwn(start: Values): OwnValues {
	const [values, setValues] = useState(start);
	const waiting = useRef(new Map<string, ReturnType<typeof setTimeout>>());
	useEffect(() => {
		const all = waiting.current;
		return () => {
			for (const timer of all.values()) clearTimeout(timer);
		};
	}, []);
	const set = (r: Reaction) =>
		setValues((old) => (old[r.value] === (r.to ?? "") ? old : { ...old, [r.value]: r.to ?? "" }));
	return {
		values,
		react(to, on) {
			for (const r of to) {
				if (r.on !== on) continue;
				clearTimeout(waiting.current.get(r.value));
				if (r.after)
					waiting.current.set(
						r.value,
						setTimeout(() => set(r), r.after),
					);
				else set(r);
			}
		},
	};
}

/**
 * Tells a part what happens to an element: that it is pointed at or has the focus, is left, or pressed. A finger that touches
 * it points at it until it touches something else; the first touch does nothing besides, where it brings something forth.
 */
export function useHappenings(ref: RefObject<HTMLElement | null>, to: Reaction[] | undefined, around?: string) {
	const own = useContext(Own);
	const latest = useRef({ own, to });
	latest.current = { own, to };
	const there = (to?.length ?? 0) > 0;
	useEffect(() => {
		const element = around ? (ref.current?.closest<HTMLElement>(around) ?? ref.current) : ref.current;
		if (!there || !element) return;
		const tell = (on: Reaction["on"]) => latest.current.own.react(latest.current.to ?? [], on);
		let touched = false;
		let fresh = false;
		const listen: { [event: string]: (e: Event) => void } = {
			pointerenter: (e) => (e as PointerEvent).pointerType !== "touch" && tell("over"),
			pointerleave: (e) =>
				(e as PointerEvent).pointerType !== "touch" && !element.contains(document.activeElement) && tell("leave"),
			pointerdown: (e) => {
				if ((e as PointerEvent).pointerType !== "touch") return;
				fresh = !touched && (latest.current.to ?? []).some((r) => r.on === "over");
				touched = true;
				tell("over");
			},
			focusin: () => tell("over"),
			focusout: (e) => !element.contains((e as FocusEvent).relatedTarget as Node | null) && tell("leave"),
			click: () => tell("press"),
		};
		const first = (e: Event) => {
			if (!fresh) return;
			fresh = false;
			e.preventDefault();
			e.stopPropagation();
		};
		const elsewhere = (e: PointerEvent) => {
			if (!touched || element.contains(e.target as Node)) return;
			touched = false;
			tell("leave");
		};
		for (const [event, heard] of Object.entries(listen)) element.addEventListener(event, heard);
		element.addEventListener("click", first, true);
		document.addEventListener("pointerdown", elsewhere);
		return () => {
			for (const [event, heard] of Object.entries(listen)) element.removeEventListener(event, heard);
			element.removeEventListener("click", first, true);
			document.removeEventListener("pointerdown", elsewhere);
		};
	}, [ref, there, around]);
}
