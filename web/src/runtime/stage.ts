import { onStage } from "./place";

/** What the running app and the builder around it tell each other. */
export type StageMessage =
	| { type: "pinegate:at"; page: string }
	| { type: "pinegate:text"; page: string; block: string; text: string }
	| { type: "pinegate:refresh" };

function tell(message: StageMessage) {
	if (onStage && window.parent !== window) window.parent.postMessage(message, location.origin);
}

let current = "";

/** Tells the builder that somebody went to another page. The first one is what the builder itself asked for. */
export function tellWhere(page: string) {
	const first = current === "";
	current = page;
	if (!first) tell({ type: "pinegate:at", page });
}

/** Tells the builder that words were changed in place. */
export function tellText(block: string, text: string) {
	tell({ type: "pinegate:text", page: current, block, text });
}

/** Calls back when the builder changed something. */
export function onRefresh(then: () => void): () => void {
	const listen = (e: MessageEvent<StageMessage>) => {
		if (e.origin === location.origin && e.source === window.parent && e.data?.type === "pinegate:refresh") then();
	};
	window.addEventListener("message", listen);
	return () => window.removeEventListener("message", listen);
}
