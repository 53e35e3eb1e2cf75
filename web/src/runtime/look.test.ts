import { afterEach, expect, it } from "vitest";
import { wear } from "./look";

afterEach(() => wear({ theme: "Harbour", look: {}, faces: [], region: undefined }));

it("gives the page the look of the app, and takes away the one before", () => {
	const root = document.documentElement;
	wear({ theme: "Clay", look: { main: "#112233", corner: "14px" }, faces: [], region: "de-DE" });
	expect(root.dataset.theme).toBe("Clay");
	expect(root.dataset.region).toBe("de-DE");
	expect(root.style.getPropertyValue("--main")).toBe("#112233");
	wear({ theme: "Paper", look: { corner: "0px" }, faces: [], region: undefined });
	expect(root.style.getPropertyValue("--main")).toBe("");
	expect(root.style.getPropertyValue("--corner")).toBe("0px");
	expect(root.dataset.region).toBe("");
});
