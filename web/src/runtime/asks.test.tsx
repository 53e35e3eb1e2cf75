import { act, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { show } from "../testing";
import { useAsks } from "./asks";

/** Shows what is asked of a block, and gives how something else is asked as it was when that was first drawn. */
function First({ out }: { out: { set?: ReturnType<typeof useAsks>["set"] } }) {
	const asks = useAsks("b1");
	out.set ??= asks.set;
	return <p>{`${asks.get("days")} ${asks.get("by")}`}</p>;
}

it("keeps what was asked a moment ago, before it was drawn", async () => {
	const out: Parameters<typeof First>[0]["out"] = {};
	show(<First out={out} />, "/?b1.days=today&b2.by=name");
	act(() => {
		out.set?.({ days: "all" });
		out.set?.({ by: "kind" });
	});
	expect(await screen.findByText("all kind")).toBeTruthy();
	expect(location.search).toBe("?b1.days=all&b2.by=name&b1.by=kind");
	act(() => out.set?.({ days: "" }, true));
	expect(await screen.findByText("kind")).toBeTruthy();
});
