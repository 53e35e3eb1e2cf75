import { Link } from "react-router";
import { addressOf } from "../place";
import type { BlockProps } from ".";

/** A button that opens a page. It is not there for those who cannot open it. */
export function Button({ block }: BlockProps<"button">) {
	if (!block.to) return null;
	return (
		<p>
			<Link className={block.tone === "quiet" ? "button" : "button button-main"} to={addressOf(block.to)}>
				{block.text}
			</Link>
		</p>
	);
}
