import { type ComponentType, lazy, type ReactNode, Suspense, useContext, useRef } from "react";
import { type Block, type BlockOf, onStage, type Where } from "../place";
import { Group } from "./Group";
import { Heading } from "./Heading";
import { Own, useHappenings } from "./own";
import { Part } from "./Part";
import { Text } from "./Text";

/** What shows a block of a kind. */
export interface BlockProps<K extends Block["kind"]> {
	block: BlockOf<K>;
	where: Where;
	/** It is the first heading of its page. */
	first?: boolean;
	/** Which is that, for blocks that hold others. */
	firstID?: string;
	/** What stands in a block that holds others, where the builder arranges them. */
	inside?: ReactNode;
}

/** Lists stand on most pages, so that they are fetched while the first page is asked for. */
const records = import("./records/Records");

/** What shows each kind of block; those that need more are loaded when a page has one. */
const kinds: { [K in Block["kind"]]: ComponentType<BlockProps<K>> } = {
	heading: Heading,
	text: Text,
	button: lazy(() => import("./Button")),
	divider: () => <hr className="border-line" />,
	group: Group,
	part: Part,
	keep: lazy(() => import("./Keep")),
	picture: lazy(() => import("./Media").then((m) => ({ default: m.Picture }))),
	video: lazy(() => import("./Media").then((m) => ({ default: m.Video }))),
	embed: lazy(() => import("./Media").then((m) => ({ default: m.Embed }))),
	service: lazy(() => import("./Service")),
	bar: lazy(() => import("./charts").then((m) => ({ default: m.Bar }))),
	badges: lazy(() => import("./charts").then((m) => ({ default: m.Badges }))),
	figure: lazy(() => import("./charts").then((m) => ({ default: m.Figure }))),
	chart: lazy(() => import("./charts").then((m) => ({ default: m.Chart }))),
	timer: lazy(() => import("./Timer")),
	checklist: lazy(() => import("./Checklist")),
	steps: lazy(() => import("./Media").then((m) => ({ default: m.Steps }))),
	records: lazy(() => records),
	details: lazy(() => import("./Details")),
	form: lazy(() => import("./Form")),
	calculator: lazy(() => import("./Form")),
	// which stand in forms, that show them with their numbers
	result: () => null,
	course: () => null,
};

/** Blocks side by side, as wide as they are; on a phone one under the other. Buttons that follow each other make a row. */
export function BlockList({ blocks, where, first }: { blocks: Block[]; where: Where; first?: string }) {
	return rows(blocks).map((row) =>
		row.length > 1 ? (
			<div key={row[0]?.id} className="cell button-row">
				{row.map((b) => (
					<Cell key={b.id} block={b} where={where} />
				))}
			</div>
		) : (
			row.map((b) => <Cell key={b.id} block={b} where={where} first={first} />)
		),
	);
}

interface CellProps {
	block: Block;
	where: Where;
	first?: string;
}

function Cell(props: CellProps) {
	const own = useContext(Own);
	const { while: shown } = props.block;
	return shown && (own.values[shown.value] ?? "") !== shown.is ? null : <ShownCell {...props} />;
}

function ShownCell({ block: b, where, first }: CellProps) {
	const ref = useRef<HTMLDivElement>(null);
	useHappenings(ref, b.reacts);
	return (
		<div
			ref={ref}
			className="cell"
			data-width={b.width}
			data-tone={b.tone}
			data-block={onStage ? b.id.slice(b.id.lastIndexOf("~") + 1) : undefined}
		>
			<BlockView block={b} where={where} first={b.id === first} firstID={first} />
		</div>
	);
}

/** Parts blocks into rows: buttons that follow each other, and each other block by itself. */
export function rows(blocks: Block[]): Block[][] {
	const out: Block[][] = [];
	const inRow = (b?: Block) =>
		(b?.kind === "button" || ((b?.kind === "form" || b?.kind === "calculator") && b.opens)) && !b.width;
	for (const [i, b] of blocks.entries()) {
		if (inRow(b) && inRow(blocks[i - 1])) out.at(-1)?.push(b);
		else out.push([b]);
	}
	return out;
}

/** One block of a page. */
export function BlockView(props: {
	block: Block;
	where: Where;
	first?: boolean;
	firstID?: string;
	inside?: ReactNode;
}) {
	const Kind = kinds[props.block.kind] as ComponentType<typeof props>;
	return (
		<Suspense fallback={<div className="card empty" aria-busy="true" />}>
			<Kind {...props} />
		</Suspense>
	);
}
