import { onStage } from "./place";

/** What the running app and the builder around it tell each other. */
export type StageMessage =
	| { type: "pinegate:at"; page: string }
	| { type: "pinegate:text"; page: string; block: string; text: string }
	| { type: "pinegate:block"; page: string; block: string }
	| { type: "pinegate:move"; block: string; to: number; into?: string }
	| { type: "pinegate:add"; into: string; at: number }
	| { type: "pinegate:remove"; block: string }
	| { type: "pinegate:set"; block: string; values: { [setting: string]: string } }
	| { type: "pinegate:mark"; block: string }
	| { type: "pinegate:refresh" };

function tell(message: StageMessage) {
	if (onStage && window.parent !== window) window.parent.postMessage(message, location.origin);
}

let current = "";

/** Tells the builder that somebody went to another page. The first one is what the builder itself asked for, and a page
 * that is read anew is where one was: saying so would take the builder back from a page that it is about to show. */
export function tellWhere(page: string) {
	if (page === current) return;
	const first = current === "";
	current = page;
	if (!first) tell({ type: "pinegate:at", page });
}

/** Tells the builder that words were changed in place. */
export function tellText(block: string, text: string) {
	tell({ type: "pinegate:text", page: current, block, text });
}

/** Tells the builder that a block was clicked. */
export const tellBlock = (block: string) => tell({ type: "pinegate:block", page: current, block });

/** Tells the builder that a block was put to another place, in another page or group where one is named. */
export const tellMove = (block: string, to: number, into?: string) => tell({ type: "pinegate:move", block, to, into });

/** Tells the builder that a block is wanted at a place of a page or a group. */
export const tellAdd = (into: string, at: number) => tell({ type: "pinegate:add", into, at });

/** Tells the builder that a block is to be removed. */
export const tellRemove = (block: string) => tell({ type: "pinegate:remove", block });

/** Tells the builder that settings of a block were changed where it stands. */
export const tellSet = (block: string, values: { [setting: string]: string }) =>
	tell({ type: "pinegate:set", block, values });

/** Calls back with what the builder tells. */
export function onMessage(then: (message: StageMessage) => void): () => void {
	const listen = (e: MessageEvent<StageMessage>) => {
		if (e.origin === location.origin && e.source === window.parent && e.data) then(e.data);
	};
	window.addEventListener("message", listen);
	return () => window.removeEventListener("message", listen);
}

/** Calls back when the builder changed something. */
export const onRefresh = (then: () => void) => onMessage((m) => m.type === "pinegate:refresh" && then());
