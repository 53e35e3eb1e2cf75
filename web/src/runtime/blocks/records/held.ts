import {
	type DndContextProps,
	type KeyboardCoordinateGetter,
	KeyboardSensor,
	MouseSensor,
	TouchSensor,
	useSensor,
	useSensors,
} from "@dnd-kit/core";

interface Held {
	/** Where the arrow keys lead. */
	coordinates: KeyboardCoordinateGetter;
	/** What is held, by its id. */
	name: (id: string | number) => string;
	/** Over what it is held. */
	place: (id: string | number) => string;
	/** What the keys do, for those who hear it. */
	keys: string;
	moves: boolean;
}

/** How records are picked up and put down: by mouse, touch or keyboard, and told of to those who hear the page. */
export function useHeld(p: Held): Pick<DndContextProps, "sensors" | "accessibility"> {
	const sensors = useSensors(
		useSensor(MouseSensor, { activationConstraint: { distance: 6 } }),
		useSensor(TouchSensor, { activationConstraint: { delay: 180, tolerance: 8 } }),
		useSensor(KeyboardSensor, {
			coordinateGetter: p.coordinates,
			keyboardCodes: { start: ["Space"], cancel: ["Escape"], end: ["Space", "Enter"] },
		}),
	);
	return {
		sensors,
		accessibility: {
			announcements: {
				onDragStart: ({ active }) =>
					`${p.name(active.id)} is picked up. ${p.keys}, Space puts it down, Escape gives up.`,
				onDragOver: ({ active, over }) => (over ? `${p.name(active.id)} is over ${p.place(over.id)}.` : undefined),
				onDragEnd: ({ active, over }) =>
					over ? `${p.name(active.id)} is put down at ${p.place(over.id)}.` : `${p.name(active.id)} stays.`,
				onDragCancel: ({ active }) => `${p.name(active.id)} stays where it was.`,
			},
			screenReaderInstructions: { draggable: p.moves ? "Press Space to pick it up." : "" },
		},
	};
}
