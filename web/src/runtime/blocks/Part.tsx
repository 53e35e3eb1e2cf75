import { useRef } from "react";
import { BlockList, type BlockProps } from ".";
import { Own, useHappenings, useOwn } from "./own";

/** A use of a part, with values of its own. What happens in the row or the card in which it stands happens to it. */
export function Part(props: BlockProps<"part">) {
	return (
		<Own.Provider value={useOwn(props.block.values)}>
			<Within {...props} />
		</Own.Provider>
	);
}

function Within({ block, where, firstID }: BlockProps<"part">) {
	const ref = useRef<HTMLDivElement>(null);
	useHappenings(ref, block.here, "[data-row]");
	return (
		<div ref={ref} className="page-grid part">
			<BlockList blocks={block.blocks} where={where} first={firstID} />
		</div>
	);
}
