import { type ComponentProps, createElement, type KeyboardEvent, useRef } from "react";
import { tellText } from "../stage";

interface EditableProps extends ComponentProps<"div"> {
	tag: "h1" | "h2" | "div";
	block: string;
	/** The words with their placeholders. */
	source: string;
	/** They can have several lines: Enter begins another one, and leaving them saves. */
	long?: boolean;
}

/** Words on the stage, which are changed where they stand. While they are, they show their placeholders. */
export function Editable({ tag, block, source, long, className, ...rest }: EditableProps) {
	const ref = useRef<HTMLElement>(null);
	const before = useRef("");
	const show = (text: string) => {
		if (ref.current) ref.current.textContent = text;
	};
	const begin = () => {
		before.current = ref.current?.innerHTML ?? "";
		show(source);
	};
	const done = () => {
		const text = ref.current?.textContent?.trim() ?? "";
		if (ref.current) ref.current.innerHTML = before.current; // as the server made it
		if (text && text !== source) tellText(block, text);
	};
	const keys = (e: KeyboardEvent) => {
		e.stopPropagation();
		if (e.key === "Escape") show(source);
		else if (e.key !== "Enter" || (long && !e.ctrlKey && !e.metaKey)) return;
		e.preventDefault();
		ref.current?.blur();
	};
	return createElement(tag, {
		...rest,
		ref,
		className: `${className} editable`,
		contentEditable: "plaintext-only",
		suppressContentEditableWarning: true,
		title: "Click to change these words",
		onFocus: begin,
		onBlur: done,
		onKeyDown: keys,
	});
}
