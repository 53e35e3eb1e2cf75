import { Plus } from "lucide-react";
import {
	createContext,
	type DragEvent,
	type KeyboardEvent,
	type PointerEvent,
	useContext,
	useEffect,
	useState,
} from "react";
import { BlockView, rows } from "./blocks";
import { Arranging } from "./blocks/form/after";
import { Arranged, HeldInForms } from "./StageForm";
import "./stage.css";
import type { Block, Page, Where } from "./place";
import { onMessage, tellAdd, tellBlock, tellMove, tellRemove, tellSet } from "./stage";

const dragged = "application/x-pinegate-stage-block";

interface Stage {
	where: Where;
	first?: string;
	marked: string;
	choose: (id: string) => void;
	/** The place over which a block is held, as what holds it and a number. */
	over: string;
	setOver: (place: string) => void;
	page: Page;
}

const Stage = createContext<Stage | null>(null);

/** The blocks of a page as the builder sees them: each can be chosen, dragged, moved by keys and removed, and others put between. */
export default function StageBlocks({ page, where, first }: { page: Page; where: Where; first?: string }) {
	const [marked, setMarked] = useState("");
	const [over, setOver] = useState("");
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
	return (
		<Stage.Provider value={{ where, first, marked, choose, over, setOver, page }}>
			<style>{`[data-block="${CSS.escape(marked)}"]:not(.stage-block) { outline: 2px solid var(--main); outline-offset: 3px; border-radius: 4px; }`}</style>
			<Arranging value={Arranged}>
				<HeldInForms>
					<Held blocks={page.blocks} into={page.id} />
				</HeldInForms>
			</Arranging>
		</Stage.Provider>
	);
}

/** Finds what holds a block, and where in it the block is. */
function placeOf(id: string, blocks: Block[], into: string): { into: string; at: number } | null {
	for (const [at, b] of blocks.entries()) {
		if (b.id === id) return { into, at };
		const inside = b.kind === "group" ? placeOf(id, b.blocks, b.id) : null;
		if (inside) return inside;
	}
	return null;
}

/** The blocks of a page or a group, with places between them. */
function Held({ blocks, into }: { blocks: Block[]; into: string }) {
	return (
		<>
			{rows(blocks).map((row) => {
				const staged = row.map((b) => (
					<Staged key={b.id} block={b} into={into} at={blocks.indexOf(b)} among={blocks.length} />
				));
				return row.length === 1 ? (
					staged
				) : (
					<div key={row[0]?.id} className="cell button-row">
						{staged}
					</div>
				);
			})}
			<Between into={into} at={blocks.length} last />
		</>
	);
}

function useDrop() {
	const stage = useContext(Stage) as Stage;
	return (e: DragEvent, into: string, to: number) => {
		stage.setOver("");
		const id = e.dataTransfer.getData(dragged);
		const from = placeOf(id, stage.page.blocks, stage.page.id);
		if (!from) return;
		e.preventDefault();
		e.stopPropagation();
		const at = from.into === into && from.at < to ? to - 1 : to;
		if (at !== from.at || from.into !== into) tellMove(id, at, from.into === into ? undefined : into);
	};
}

function Staged({ block: b, into, at, among }: { block: Block; into: string; at: number; among: number }) {
	const { where, first, marked, choose, over, setOver } = useContext(Stage) as Stage;
	const drop = useDrop();
	const keys = (e: KeyboardEvent) => {
		if (e.target !== e.currentTarget) return;
		const to = at + (e.key === "ArrowUp" ? -1 : e.key === "ArrowDown" ? 1 : 0);
		const wider = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
		if (e.altKey && to !== at && to >= 0 && to < among) tellMove(b.id, to);
		else if (e.altKey && wider) tellWidth(b, wider);
		else if (e.key === "Delete") tellRemove(b.id);
		else if (e.key === "Enter") choose(b.id);
		else return;
		e.preventDefault();
	};
	return (
		// biome-ignore lint/a11y/useSemanticElements: a group holds whatever the block is
		<div
			role="group"
			aria-label={`${b.kind}, block ${at + 1} of ${among}. Alt with up and down moves it, with left and right makes it narrower or wider, Delete removes it.`}
			// biome-ignore lint/a11y/noNoninteractiveTabindex: blocks are chosen and moved by keys
			tabIndex={0}
			draggable
			data-block={b.id}
			data-width={b.width}
			data-tone={b.tone}
			className={`stage-block ${b.id === marked ? "stage-marked" : ""}`}
			onClickCapture={(e) => {
				const on = e.target as Element; // of blocks in one another the innermost is meant, also in rows and in parts
				const around = on.closest(".stage-block"); // none in a dialog that the block opened
				if ((around && around !== e.currentTarget) || on.closest(".stage-plus")) return;
				choose(on.closest<HTMLElement>("[data-block]")?.dataset.block ?? b.id);
			}}
			onKeyDown={keys}
			onDragStart={(e) => {
				if (e.currentTarget.contains(document.activeElement) && document.activeElement !== e.currentTarget) {
					e.preventDefault(); // somebody writes in it
					return;
				}
				e.stopPropagation();
				e.dataTransfer.effectAllowed = "move";
				e.dataTransfer.setData(dragged, b.id);
			}}
			onDragOver={(e) => {
				if (!e.dataTransfer.types.includes(dragged)) return;
				e.preventDefault();
				e.stopPropagation();
				const box = e.currentTarget.getBoundingClientRect();
				setOver(`${into} ${e.clientY < box.top + box.height / 2 ? at : at + 1}`);
			}}
			onDrop={(e) => drop(e, into, Number(over.split(" ")[1] ?? at))}
		>
			<Between into={into} at={at} />
			{b.id === marked && <Bar block={b} />}
			<Edge block={b} />
			{b.kind === "group" ? (
				<BlockView block={b} where={where} inside={<Held blocks={b.blocks} into={b.id} />} />
			) : (
				<BlockView block={b} where={where} first={b.id === first} />
			)}
		</div>
	);
}

/** The place between two blocks: a small plus adds one there. */
function Between({ into, at, last }: { into: string; at: number; last?: boolean }) {
	const { over, setOver } = useContext(Stage) as Stage;
	const drop = useDrop();
	const place = `${into} ${at}`;
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: blocks are moved by keys, too
		<div
			className={`stage-between ${over === place ? "stage-over" : ""} ${last ? "stage-last" : ""}`}
			onDragOver={(e) => {
				if (!e.dataTransfer.types.includes(dragged)) return;
				e.preventDefault();
				e.stopPropagation();
				setOver(place);
			}}
			onDragLeave={() => setOver("")}
			onDrop={(e) => drop(e, into, at)}
		>
			<button
				type="button"
				className="stage-plus"
				onClick={(e) => {
					e.stopPropagation();
					tellAdd(into, at);
				}}
			>
				<Plus size={14} aria-hidden /> <span>{last ? "Add a block" : "Add a block here"}</span>
			</button>
		</div>
	);
}

/** The widths of a block from narrow to wide, with the part of the row that they take. */
const widths: [string, number][] = [
	["quarter", 1 / 4],
	["third", 1 / 3],
	["half", 1 / 2],
	["two thirds", 2 / 3],
	["", 1],
];

/** Makes a block narrower or wider by a step. */
function tellWidth(b: Block, by: number) {
	const now = widths.findIndex(([w]) => w === (b.width ?? ""));
	const next = widths[now + by];
	if (next) tellSet(b.id, { width: next[0] });
}

/** The width that is nearest to a part of the row. */
export function widthOf(part: number): string {
	return [...widths].sort((x, y) => Math.abs(x[1] - part) - Math.abs(y[1] - part))[0]?.[0] ?? "";
}

/** The right edge of a block, which is dragged to change its width. */
function Edge({ block }: { block: Block }) {
	const [to, setTo] = useState<string | null>(null);
	const part = (e: PointerEvent<HTMLElement>) => {
		const box = e.currentTarget.closest("[data-block]") as HTMLElement;
		const row = box.parentElement as HTMLElement;
		return (e.clientX - box.getBoundingClientRect().left) / row.getBoundingClientRect().width;
	};
	return (
		<button
			type="button"
			tabIndex={-1}
			aria-hidden
			className={`stage-edge ${to !== null ? "stage-edge-held" : ""}`}
			title="Drag to change the width"
			onPointerDown={(e) => {
				e.preventDefault();
				e.stopPropagation();
				e.currentTarget.setPointerCapture(e.pointerId);
				setTo(block.width ?? "");
			}}
			onPointerMove={(e) => to !== null && setTo(widthOf(part(e)))}
			onPointerUp={() => {
				if (to !== null && to !== (block.width ?? "")) tellSet(block.id, { width: to });
				setTo(null);
			}}
			onPointerCancel={() => setTo(null)}
			onClick={(e) => e.stopPropagation()}
		>
			{to !== null && <span className="stage-width">{to || "whole row"}</span>}
		</button>
	);
}

const tones = ["quiet", "good", "attention", "danger", "accent"];
const sizes = ["small", "large", "display"];
/** The kinds that can have a tone. */
const toned = ["heading", "text", "button", "group"];

/** What of the chosen block is changed right there: the size and the tone of words. */
function Bar({ block }: { block: Block }) {
	const size = block.kind === "heading" || block.kind === "text" ? (block.size ?? "") : undefined;
	if (!toned.includes(block.kind)) return null;
	const choose = (label: string, name: string, value: string, options: string[]) => (
		<label>
			{label}
			<select value={value} onChange={(e) => tellSet(block.id, { [name]: e.target.value })}>
				<option value="">{name === "tone" ? "plain" : "normal"}</option>
				{options.map((o) => (
					<option key={o}>{o}</option>
				))}
			</select>
		</label>
	);
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: what is pressed is in it
		<div className="stage-bar" onClick={(e) => e.stopPropagation()} onKeyDown={(e) => e.stopPropagation()}>
			{size !== undefined && choose("Size", "size", size, sizes)}
			{choose("Tone", "tone", block.tone ?? "", tones)}
		</div>
	);
}
