import type { CSSProperties } from "react";
import { numberText, type Row, valueText } from "../../shared/fields/values";
import type { FieldOut } from "../api";

/** A line of the grid: a row, or the head of the group that begins with it. */
export interface LineOf {
	row: number;
	head: boolean;
}

const groupOf = (row: Row, group: FieldOut) => JSON.stringify(row[group.id] ?? null);

/** The rows, which are sorted by the group, with a head before each group. */
export function inLines(rows: Row[], group: FieldOut | undefined): LineOf[] {
	const out: LineOf[] = [];
	let last: string | undefined;
	rows.forEach((r, row) => {
		const now = group ? groupOf(r, group) : undefined;
		if (now !== undefined && now !== last) out.push({ row, head: true });
		last = now;
		out.push({ row, head: false });
	});
	return out;
}

interface GroupProps {
	/** The first row of the group. */
	row: Row;
	group: FieldOut;
	totals?: Row[];
	columns: FieldOut[];
	style: CSSProperties;
}

/** The head of a group: its value, how many records it has, and the sums of their numbers. */
export function GroupRow({ row, group, totals, columns, style }: GroupProps) {
	const key = groupOf(row, group);
	const total = totals?.find((t) => JSON.stringify(t.group ?? null) === key);
	return (
		<div
			role="row"
			data-group
			className="grid absolute inset-x-0 border-b border-line bg-raised font-medium"
			style={style}
		>
			<div role="gridcell" className="sticky left-0 z-[4] bg-raised h-full" />
			{columns.map((c, i) => {
				const sum = c.kind === "number" && c.type !== "percentage" ? total?.[c.id] : undefined;
				return (
					<div
						key={c.id}
						role="gridcell"
						className={`grid-cell bg-raised !border-r-transparent ${i === 0 ? "sticky left-[62px] z-[4] !overflow-visible" : "text-right tabular-nums"}`}
					>
						{i === 0 ? (
							<span>
								{valueText(row, group) || `No ${group.name}`}
								{total && (
									<span className="text-soft font-normal">
										{" "}
										· {String(total.count)} {total.count === 1 ? "record" : "records"}
									</span>
								)}
							</span>
						) : typeof sum === "string" ? (
							numberText(sum, c)
						) : (
							""
						)}
					</div>
				);
			})}
		</div>
	);
}
