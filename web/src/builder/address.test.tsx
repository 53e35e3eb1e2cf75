import { act, render } from "@testing-library/react";
import { BrowserRouter } from "react-router";
import { beforeEach, describe, expect, it } from "vitest";
import { useAddress } from "./address";

type Address = ReturnType<typeof useAddress>;

function Shown({ look }: { look: (now: Address) => void }) {
	look(useAddress());
	return null;
}

/** Shows what the address says, and gives it as it was when it was last looked at. */
function address() {
	const latest = { now: {} as Address };
	render(
		<BrowserRouter useTransitions={false}>
			<Shown
				look={(now) => {
					latest.now = now;
				}}
			/>
		</BrowserRouter>,
	);
	return latest;
}

beforeEach(() => history.replaceState(null, "", "/apps/a1/pages?open=welcome"));

describe("what the address of a stop says", () => {
	it("is the founder's own look until another is chosen", () => {
		const at = address();
		expect([at.now.as, at.now.open]).toEqual(["founder", "welcome"]);
		act(() => at.now.set({ as: "role.crew" }));
		expect([at.now.as, at.now.open]).toEqual(["role.crew", "welcome"]);
	});

	it("loses nothing when two things are set at once", () => {
		const at = address();
		const { set } = at.now;
		act(() => {
			set({ as: "role.crew" });
			set({ open: "moor" });
		});
		expect([at.now.as, at.now.open]).toEqual(["role.crew", "moor"]);
		expect(location.search).toBe("?open=moor&as=role.crew");
	});
});
