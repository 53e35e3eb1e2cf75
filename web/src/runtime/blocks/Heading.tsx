import { type KeyboardEvent, useRef } from "react";
import { onStage } from "../place";
import { tellText } from "../stage";
import type { BlockProps } from ".";

/** A heading, the first of a page as its main one; on the stage its words are edited in place. */
export function Heading({ block, first }: BlockProps<"heading">) {
	const Tag = first ? "h1" : "h2";
	const ref = useRef<HTMLHeadingElement>(null);
	if (!onStage)
		return (
			<Tag className="page-heading" data-size={block.size}>
				{block.text}
			</Tag>
		);
	const source = block.source ?? "";
	const show = (text: string) => {
		if (ref.current) ref.current.textContent = text;
	};
	const done = () => {
		const text = ref.current?.textContent?.trim() ?? "";
		show(block.text ?? "");
		if (text && text !== source) tellText(block.id, text);
	};
	const keys = (e: KeyboardEvent) => {
		e.stopPropagation();
		if (e.key === "Enter") {
			e.preventDefault();
			ref.current?.blur();
		} else if (e.key === "Escape") {
			show(source);
			ref.current?.blur();
		}
	};
	return (
		<Tag
			ref={ref}
			key={block.text}
			className="page-heading editable"
			data-size={block.size}
			contentEditable="plaintext-only"
			suppressContentEditableWarning
			title="Click to change these words"
			onFocus={() => show(source)}
			onBlur={done}
			onKeyDown={keys}
		>
			{block.text}
		</Tag>
	);
}
