/** The look of the builder. */
export type Mode = "light" | "dark";

/** Puts a look on, and keeps it for the next time. */
export function setMode(mode: Mode) {
	document.documentElement.dataset.mode = mode;
	localStorage.setItem("mode", mode);
}

/** Puts on the look of last time, or else the one that the system asks for. */
export function startMode() {
	const kept = localStorage.getItem("mode");
	const dark = kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
	document.documentElement.dataset.mode = dark ? "dark" : "light";
}
