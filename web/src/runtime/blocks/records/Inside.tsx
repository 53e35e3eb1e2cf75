import { ChevronRight } from "lucide-react";
import { lazy, type ReactNode, Suspense, useState } from "react";
import type { Row } from "../../../shared/fields/values";
import type { Records } from "../../place";
import { BlockList } from "..";
import type { WayProps } from "./Records";
import "./rows.css";

const Unfolded = lazy(() => import("./Unfolded"));

/** Whether something stands in the rows of a list. */
export const holds = (list: Records) => Object.values(list.inside ?? {}).some((blocks) => blocks.length > 0);

/** What stands in a row: buttons about its record, and words. */
export function Inside({ list, where, row }: WayProps & { row: Row }) {
	const blocks = list.inside?.[String(row.id)] ?? [];
	if (blocks.length === 0) return null;
	const stop = (e: { stopPropagation: () => void }) => e.stopPropagation(); // neither opens the row nor takes hold of a card
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: what is pressed are the buttons in it
		<div className="row-blocks" onClick={stop} onMouseDown={stop} onTouchStart={stop} onKeyDown={stop}>
			<BlockList blocks={blocks} where={where} />
		</div>
	);
}

/** What unfolds a row, and what it unfolds to, where a list has that. */
export function useUnfold(list: Records, row: Row): { button: ReactNode; unfolded: ReactNode } {
	const [open, setOpen] = useState(false);
	if (!list.unfold) return { button: null, unfolded: null };
	return {
		button: (
			<button
				type="button"
				className="row-unfold"
				aria-expanded={open}
				aria-label={`${open ? "Fold" : "Unfold"} ${String(row.label || "this row")}`}
				onClick={(e) => {
					e.stopPropagation();
					setOpen(!open);
				}}
			>
				<ChevronRight size={16} aria-hidden />
			</button>
		),
		unfolded: open && (
			<Suspense fallback={<p className="text-soft">Loading …</p>}>
				<Unfolded where={{ path: list.unfold, record: String(row.id) }} />
			</Suspense>
		),
	};
}
