import type { BlockProps } from ".";

/** A text. The server made HTML of its Markdown, without any that stood in it. */
export function Text({ block }: BlockProps<"text">) {
	return (
		<div
			className="text-block"
			data-size={block.size}
			// biome-ignore lint/security/noDangerouslySetInnerHtml: made by the server of Markdown, in which HTML is left out
			dangerouslySetInnerHTML={{ __html: block.html }}
		/>
	);
}
