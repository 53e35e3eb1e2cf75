import { lazy, type ReactNode, useId } from "react";
import { Link } from "react-router";
import { addressOf } from "../place";
import type { BlockProps } from ".";

const Starts = lazy(() => import("./Starts"));

/**
 * A button that opens a page, or starts a workflow. It is not there for those who cannot do that. Its hint shows while it
 * is pointed at or has the focus.
 */
export default function Button({ block }: BlockProps<"button">) {
	const hint = useId();
	const look = {
		className: block.tone === "quiet" ? "button" : "button button-main",
		"aria-describedby": block.hint ? hint : undefined,
	};
	const box = (button: ReactNode) => (
		<p className="button-box">
			{button}
			{block.hint && (
				<span id={hint} role="tooltip" className="button-hint">
					{block.hint}
				</span>
			)}
		</p>
	);
	if (block.starts) return <Starts flow={block.flow} text={block.text} look={look} box={box} />;
	if (!block.to) return null;
	return box(
		<Link {...look} to={addressOf(block.to)}>
			{block.text}
		</Link>,
	);
}
