import { useId } from "react";
import { Link } from "react-router";
import { addressOf } from "../place";
import type { BlockProps } from ".";

/** A button that opens a page. It is not there for those who cannot open it. Its hint shows while it is pointed at or has the focus. */
export function Button({ block }: BlockProps<"button">) {
	const hint = useId();
	if (!block.to) return null;
	return (
		<p className="button-box">
			<Link
				className={block.tone === "quiet" ? "button" : "button button-main"}
				to={addressOf(block.to)}
				aria-describedby={block.hint ? hint : undefined}
			>
				{block.text}
			</Link>
			{block.hint && (
				<span id={hint} role="tooltip" className="button-hint">
					{block.hint}
				</span>
			)}
		</p>
	);
}
