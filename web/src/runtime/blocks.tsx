import { type KeyboardEvent, useRef } from "react";
import { Link } from "react-router";
import { ChoiceText } from "../shared/fields/choice";
import { Files } from "../shared/fields/files";
import { type Column, type Row, valueText } from "../shared/fields/values";
import { FormBlock } from "./FormBlock";
import { ListBlock } from "./ListBlock";
import { addressOf, type Block, fileHref, onStage, pictureHref, type Where } from "./place";
import { tellText } from "./stage";

/** One block of a page. */
export function BlockView({ block, where }: { block: Block; where: Where }) {
	switch (block.kind) {
		case "heading":
			return <Heading block={block} />;
		case "text":
			return <p className="text-block">{block.text}</p>;
		case "button":
			return block.to ? (
				<p>
					<Link className="button button-main" to={addressOf(block.to)}>
						{block.text}
					</Link>
				</p>
			) : null;
		case "list":
			return block.list ? <ListBlock block={block.id} first={block.list} where={where} /> : null;
		case "details":
			return block.details ? <Details columns={block.details.columns} row={block.details.row} /> : null;
		case "form":
			return block.form ? (
				<FormBlock key={block.form.revision} block={block.id} form={block.form} where={where} />
			) : null;
	}
	return null;
}

/** A heading; on the stage its words are edited in place. */
function Heading({ block }: { block: Block }) {
	const ref = useRef<HTMLHeadingElement>(null);
	if (!onStage) return <h2 className="page-heading">{block.text}</h2>;
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
		if (e.key === "Enter") {
			e.preventDefault();
			ref.current?.blur();
		} else if (e.key === "Escape") {
			show(source);
			ref.current?.blur();
		}
	};
	return (
		<h2
			ref={ref}
			key={block.text}
			className="page-heading editable"
			contentEditable="plaintext-only"
			suppressContentEditableWarning
			title="Click to change these words"
			onFocus={() => show(source)}
			onBlur={done}
			onKeyDown={keys}
		>
			{block.text}
		</h2>
	);
}

function Details({ columns, row }: { columns: Column[]; row: Row }) {
	if (columns.length === 0) return <p className="empty">None of these details are shown to you.</p>;
	return (
		<dl className="card details">
			{columns.map((c) => (
				<div key={c.id}>
					<dt>{c.name}</dt>
					<dd className="whitespace-pre-line">
						{c.kind === "file" && valueText(row, c) ? (
							<Files row={row} column={c} href={fileHref(row, c)} height={140} />
						) : (
							(valueText(row, c) && (
								<ChoiceText row={row} column={c} text={valueText(row, c)} picture={pictureHref} />
							)) || <span className="text-soft">–</span>
						)}
					</dd>
				</div>
			))}
		</dl>
	);
}
