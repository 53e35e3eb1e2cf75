import { type ComponentType, lazy, Suspense } from "react";
import type { Block, BlockOf, Where } from "../place";
import { Button } from "./Button";
import { Heading } from "./Heading";
import { Text } from "./Text";

/** What shows a block of a kind. */
export interface BlockProps<K extends Block["kind"]> {
	block: BlockOf<K>;
	where: Where;
	/** It is the first heading of its page. */
	first?: boolean;
}

/** What shows each kind of block; those that need more are loaded when a page has one. */
const kinds: { [K in Block["kind"]]: ComponentType<BlockProps<K>> } = {
	heading: Heading,
	text: Text,
	button: Button,
	divider: () => <hr className="border-line" />,
	records: lazy(() => import("./Records")),
	details: lazy(() => import("./Details")),
	form: lazy(() => import("./Form")),
};

/** One block of a page. */
export function BlockView(props: { block: Block; where: Where; first?: boolean }) {
	const Kind = kinds[props.block.kind] as ComponentType<{ block: Block; where: Where; first?: boolean }>;
	return (
		<Suspense fallback={<div className="card empty" aria-busy="true" />}>
			<Kind {...props} />
		</Suspense>
	);
}
