import { lazy, Suspense } from "react";
import { onStage } from "../place";
import type { BlockProps } from ".";

const Editable = lazy(() => import("./Editable").then((m) => ({ default: m.Editable })));

/** A heading, the first of a page as its main one; on the stage its words are edited in place. */
export function Heading({ block, first }: BlockProps<"heading">) {
	const Tag = first ? "h1" : "h2";
	const plain = (
		<Tag className="page-heading" data-size={block.size}>
			{block.text}
		</Tag>
	);
	if (!onStage || !block.source) return plain; // in a part it stands in many places
	return (
		<Suspense fallback={plain}>
			<Editable
				key={block.text}
				tag={Tag}
				block={block.id}
				source={block.source}
				className="page-heading"
				data-size={block.size}
			>
				{block.text}
			</Editable>
		</Suspense>
	);
}
