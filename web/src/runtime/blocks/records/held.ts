import { type DndContextProps, MouseSensor, TouchSensor, useSensor, useSensors } from "@dnd-kit/core";
import type { KeyboardEvent } from "react";

/** How records are picked up by mouse or finger. Keys move them without that; see steps. */
export function useHeld(): Pick<DndContextProps, "sensors" | "accessibility"> {
	const sensors = useSensors(
		useSensor(MouseSensor, { activationConstraint: { distance: 6 } }),
		useSensor(TouchSensor, { activationConstraint: { delay: 180, tolerance: 8 } }),
	);
	const silent = () => undefined; // moves are told of when they are made
	return {
		sensors,
		accessibility: {
			announcements: { onDragStart: silent, onDragOver: silent, onDragEnd: silent, onDragCancel: silent },
		},
	};
}

/** Calls back with how far Alt and an arrow are to move what has the focus: right and down forwards. */
export const steps =
	(move: (right: number, down: number) => void) =>
	(e: KeyboardEvent): void => {
		if (!e.altKey || e.target !== e.currentTarget) return;
		const by: { [key: string]: [number, number] } = {
			ArrowRight: [1, 0],
			ArrowLeft: [-1, 0],
			ArrowDown: [0, 1],
			ArrowUp: [0, -1],
		};
		const step = by[e.key];
		if (!step) return;
		e.preventDefault();
		move(...step);
	};
