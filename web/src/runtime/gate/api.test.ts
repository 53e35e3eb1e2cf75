import { describe, expect, it } from "vitest";
import { within } from "./api";

describe("where one lands after signing in", () => {
	it.each(["/my-boats", "/boat/01a2", "/", "/a?b=c"])("is %s, a page of the app", (to) => {
		expect(within(to)).toBe(to);
	});
	it.each([
		"https://elsewhere.example",
		"//elsewhere.example",
		"/\\elsewhere.example",
		"javascript:alert(1)",
		"my-boats",
		"\\\\x",
		"/a\\b",
		"",
		null,
		undefined,
	])("is the home page for %s", (to) => {
		expect(within(to)).toBe("/");
	});
});
