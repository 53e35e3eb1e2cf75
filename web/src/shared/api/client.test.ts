import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem, request, withQuery } from "./client";

afterEach(() => vi.unstubAllGlobals());

const answer = (status: number, body: string) =>
	vi.stubGlobal("fetch", async () => new Response(status === 204 ? null : body, { status }));

describe("the client", () => {
	it("gives answers, and nothing where there is none", async () => {
		answer(200, '{"a":1}');
		expect(await request("GET", "/x")).toEqual({ a: 1 });
		answer(204, "");
		expect(await request("POST", "/x", {})).toBeUndefined();
	});

	it("turns refusals into problems with the server's words", async () => {
		answer(422, '{"detail":"Not so.","errors":[{"location":"f","message":"Too long."}]}');
		const e = await request("GET", "/x").catch((x: unknown) => x);
		expect(e).toBeInstanceOf(Problem);
		expect(e).toMatchObject({ status: 422, message: "Not so.", mistakes: [{ location: "f", message: "Too long." }] });
	});

	it("has words for what is no answer at all", async () => {
		answer(502, "<html>");
		await expect(request("GET", "/x")).rejects.toThrow("Something went wrong");
		vi.stubGlobal("fetch", async () => {
			throw new TypeError("failed");
		});
		await expect(request("GET", "/x")).rejects.toThrow("can’t reach");
	});

	it("leaves out parameters that are not set", () => {
		expect(withQuery("/x", { a: "", b: undefined, c: false, d: "ä&", e: 0 })).toBe("/x?d=%C3%A4%26&e=0");
	});
});
