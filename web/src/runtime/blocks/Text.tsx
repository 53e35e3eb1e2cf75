import { lazy, Suspense } from "react";
import { onStage } from "../place";
import type { BlockProps } from ".";

const Editable = lazy(() => import("./Editable").then((m) => ({ default: m.Editable })));

/** A text. The server made HTML of its Markdown, without any that stood in it. On the stage it is edited in place. */
export function Text({ block }: BlockProps<"text">) {
	const shown = {
		className: "text-block",
		"data-size": block.size,
		dangerouslySetInnerHTML: { __html: block.html },
	};
	if (!onStage || !block.source) return <div {...shown} />;
	return (
		<Suspense fallback={<div {...shown} />}>
			<Editable key={block.html} tag="div" block={block.id} source={block.source} long {...shown} />
		</Suspense>
	);
}
