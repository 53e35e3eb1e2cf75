import type { App } from "./place";

/** The type faces that ship with the product. Each is loaded when an app uses it. */
const faces: { [name: string]: () => Promise<unknown> } = {
	"Bricolage Grotesque": () => import("@fontsource-variable/bricolage-grotesque"),
	"Instrument Sans": () => import("@fontsource-variable/instrument-sans"),
	Fraunces: () => import("@fontsource-variable/fraunces"),
	"Source Serif 4": () => import("@fontsource-variable/source-serif-4"),
	Figtree: () => import("@fontsource-variable/figtree"),
	Nunito: () => import("@fontsource-variable/nunito"),
	Archivo: () => import("@fontsource-variable/archivo"),
	"JetBrains Mono": () => import("@fontsource-variable/jetbrains-mono"),
};

/** The faces that themes are set in, besides those that are always there. */
const ofTheme: { [theme: string]: string[] } = {
	Meadow: ["Nunito"],
	Slate: ["Archivo"],
	Clay: ["Fraunces", "Figtree"],
	Paper: ["Source Serif 4"],
	"Night ferry": ["Figtree"],
};

/** Gives the page the look of the app. What it had before and has no more is taken away. */
export function wear(app: Pick<App, "theme" | "look" | "faces" | "region">) {
	const root = document.documentElement;
	root.dataset.theme = app.theme;
	root.dataset.region = app.region ?? "";
	root.removeAttribute("style");
	for (const [name, value] of Object.entries(app.look)) root.style.setProperty(`--${name}`, value);
	for (const face of [...(ofTheme[app.theme] ?? []), ...app.faces]) void faces[face]?.();
}
