import { useLocation } from "react-router";
import { show } from "../../testing";
import type { Block } from "../place";
import { BlockView } from ".";

export const where = { path: "boats", record: "" };
export const name = { id: "name", table: "boat", name: "Name", type: "text", kind: "text", entered: true };
export const kind = {
	...name,
	id: "kind",
	name: "Kind",
	type: "choice",
	kind: "choice",
	choices: [{ id: "k1", label: "Dinghy" }],
};
export const row = (id: string) => ({ id, name: `Boat ${id}`, revision: 1 });
export const block = (b: object) => ({ id: "b1", ...b }) as unknown as Block;
export const list = (more: object = {}) =>
	block({
		kind: "records",
		columns: [name, kind],
		rows: [row("1"), row("2")],
		next: "",
		open: "",
		empty: "",
		sort: "",
		falling: false,
		title: "",
		as: "table",
		ways: ["table"],
		fields: [],
		edits: [],
		moves: [],
		filters: [],
		notes: [],
		totals: [],
		search: "",
		...more,
	});
let here = "";
let path = "";
const Here = () => {
	({ search: here, pathname: path } = useLocation());
	return null;
};
/** The path of the address, as it is now. */
export const place = () => path;
/** What the address asks, as it is now. */
export const address = () => decodeURIComponent(here);

export const one = (b: Block, at?: string) =>
	show(
		<>
			<BlockView block={b} where={where} />
			<Here />
		</>,
		at,
	);
