import { Plus } from "lucide-react";
import { type DragEvent, Fragment, type KeyboardEvent, useEffect, useState } from "react";
import { BlockView } from "./blocks";
import "./stage.css";
import type { Page, Where } from "./place";
import { onMessage, tellAdd, tellBlock, tellMove, tellRemove } from "./stage";

const dragged = "application/x-pinegate-stage-block";

/** The blocks of a page as the builder sees them: each can be chosen, dragged, moved by keys and removed, and others put between. */
export default function StageBlocks({ page, where, first }: { page: Page; where: Where; first?: string }) {
	const [marked, setMarked] = useState("");
	const [over, setOver] = useState(-1);
	useEffect(() => onMessage((m) => m.type === "pinegate:mark" && setMarked(m.block)), []);
	useEffect(() => {
		document.querySelector(`[data-block="${CSS.escape(marked)}"]`)?.scrollIntoView({ block: "nearest" });
	}, [marked]);
	const choose = (id: string) => {
		if (id !== marked) {
			setMarked(id);
			tellBlock(id);
		}
	};
	const drop = (e: DragEvent, to: number) => {
		setOver(-1);
		const id = e.dataTransfer.getData(dragged);
		const from = page.blocks.findIndex((b) => b.id === id);
		if (from < 0) return;
		e.preventDefault();
		const at = from < to ? to - 1 : to;
		if (at !== from) tellMove(id, at);
	};
	const keys = (e: KeyboardEvent, id: string, at: number) => {
		if (e.target !== e.currentTarget) return;
		const to = at + (e.key === "ArrowUp" ? -1 : e.key === "ArrowDown" ? 1 : 0);
		if (e.altKey && to !== at && to >= 0 && to < page.blocks.length) tellMove(id, to);
		else if (e.key === "Delete") tellRemove(id);
		else if (e.key === "Enter") choose(id);
		else return;
		e.preventDefault();
	};
	return (
		<>
			{page.blocks.map((b, i) => (
				<Fragment key={b.id}>
					<Between at={i} over={over === i} onOver={setOver} onDrop={drop} />
					{/* biome-ignore lint/a11y/useSemanticElements: a group holds whatever the block is */}
					<div
						role="group"
						aria-label={`${b.kind}, block ${i + 1} of ${page.blocks.length}. Alt and arrows move it, Delete removes it.`}
						// biome-ignore lint/a11y/noNoninteractiveTabindex: blocks are chosen and moved by keys
						tabIndex={0}
						draggable
						data-block={b.id}
						className={`stage-block ${b.id === marked ? "stage-marked" : ""}`}
						onClickCapture={() => choose(b.id)}
						onKeyDown={(e) => keys(e, b.id, i)}
						onDragStart={(e) => {
							if (e.currentTarget.contains(document.activeElement) && document.activeElement !== e.currentTarget) {
								e.preventDefault(); // somebody writes in it
								return;
							}
							e.dataTransfer.effectAllowed = "move";
							e.dataTransfer.setData(dragged, b.id);
						}}
						onDragOver={(e) => {
							if (!e.dataTransfer.types.includes(dragged)) return;
							e.preventDefault();
							const box = e.currentTarget.getBoundingClientRect();
							setOver(e.clientY < box.top + box.height / 2 ? i : i + 1);
						}}
						onDrop={(e) => drop(e, over)}
					>
						<BlockView block={b} where={where} first={b.id === first} />
					</div>
				</Fragment>
			))}
			<Between at={page.blocks.length} over={over === page.blocks.length} onOver={setOver} onDrop={drop} last />
		</>
	);
}

interface BetweenProps {
	at: number;
	over: boolean;
	last?: boolean;
	onOver: (at: number) => void;
	onDrop: (e: DragEvent, at: number) => void;
}

/** The place between two blocks: a small plus adds one there. */
function Between({ at, over, last, onOver, onDrop }: BetweenProps) {
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: blocks are moved by keys, too
		<div
			className={`stage-between ${over ? "stage-over" : ""} ${last ? "stage-last" : ""}`}
			onDragOver={(e) => {
				if (!e.dataTransfer.types.includes(dragged)) return;
				e.preventDefault();
				onOver(at);
			}}
			onDragLeave={() => onOver(-1)}
			onDrop={(e) => onDrop(e, at)}
		>
			<button type="button" className="stage-plus" onClick={() => tellAdd(at)}>
				<Plus size={14} aria-hidden /> <span>{last ? "Add a block" : "Add a block here"}</span>
			</button>
		</div>
	);
}
