import { ArrowDown, ArrowUp } from "lucide-react";
import { Fragment } from "react";
import { Link } from "react-router";
import { type Column, numberText, type Row, valueText } from "../../../shared/fields/values";
import { useAsks } from "../../asks";
import type { Records } from "../../place";
import { Cell, EditCell } from "./Cell";
import { holds, Inside, useUnfold } from "./Inside";
import { lookOf } from "./look";
import type { WayProps } from "./Records";
import { type Open, useOpen } from "./use";

type Total = Records["totals"][number];

/** Rows as a table, which a phone shows as lines with names. Groups have their totals. */
export function TableWay({ list, where }: WayProps) {
	const asks = useAsks(list.id);
	const open = useOpen(list);
	const sort = (c: Column) => asks.set({ by: list.sort === c.id && !list.falling ? `-${c.id}` : c.id });
	const group = [...list.columns, ...list.fields].find((c) => c.id === list.group);
	const of = (r: Row) => String(r[list.group ?? ""] ?? "");
	const acts = holds(list);
	const wide = list.columns.length + (acts ? 1 : 0) + (list.unfold ? 1 : 0);
	return (
		<div className="card list-card">
			<table className="records">
				<thead>
					<tr>
						{list.unfold && (
							<th className="records-unfold">
								<span className="sr-only">Unfold</span>
							</th>
						)}
						{list.columns.map((c) => (
							<th
								key={c.id}
								className={c.kind === "number" ? "text-right" : ""}
								aria-sort={list.sort === c.id ? (list.falling ? "descending" : "ascending") : undefined}
							>
								{c.many || c.kind === "file" ? (
									<span className="records-name">{c.name}</span>
								) : (
									<button type="button" onClick={() => sort(c)}>
										{c.name}
										{list.sort === c.id &&
											(list.falling ? <ArrowDown size={13} aria-hidden /> : <ArrowUp size={13} aria-hidden />)}
									</button>
								)}
							</th>
						))}
						{acts && (
							<th>
								<span className="sr-only">What can be done</span>
							</th>
						)}
					</tr>
				</thead>
				<tbody>
					{list.rows.map((r, i) => (
						<Fragment key={String(r.id)}>
							{group && (i === 0 || of(list.rows[i - 1] as Row) !== of(r)) && (
								<GroupRow
									list={list}
									group={group}
									row={r}
									wide={wide}
									total={list.totals.find((t) => t.value === of(r))}
								/>
							)}
							<RowView list={list} where={where} row={r} open={open} wide={wide} acts={acts} />
						</Fragment>
					))}
				</tbody>
				{!group && list.totals[0] && <Totals list={list} total={list.totals[0]} acts={acts} />}
			</table>
		</div>
	);
}

interface GroupProps {
	list: Records;
	group: Column;
	row: Row;
	total?: Total;
	/** How many columns there are. */
	wide: number;
}

function GroupRow({ list, group, row, total, wide }: GroupProps) {
	return (
		<tr className="records-group">
			<th scope="rowgroup" colSpan={wide}>
				<span className="flex flex-wrap gap-x-4 items-center">
					{valueText(row, group) ? <Cell row={row} column={group} /> : `No ${group.name.toLowerCase()}`}
					{total && <span className="text-soft font-normal">{total.count}</span>}
					{total && <Sums list={list} total={total} />}
				</span>
			</th>
		</tr>
	);
}

const columnsOf = (list: Records) => [...list.columns, ...list.fields];

/** Sums of numbers, by the names of their fields. */
export function Sums({ list, total }: { list: Records; total: { sums: { [field: string]: string } } }) {
	return Object.entries(total.sums).map(([id, sum]) => {
		const column = columnsOf(list).find((c) => c.id === id);
		return (
			column && (
				<span key={id} className="text-soft font-normal tabular-nums">
					{column.name} {numberText(sum, column)}
				</span>
			)
		);
	});
}

function Totals({ list, total, acts }: { list: Records; total: Total; acts: boolean }) {
	return (
		<tfoot>
			<tr>
				{list.unfold && <td className="max-md:hidden!" />}
				{list.columns.map((c, i) => (
					<td
						key={c.id}
						data-name={i === 0 ? "Total" : c.name}
						className={total.sums[c.id] ? "md:text-right tabular-nums" : i === 0 ? "" : "max-md:hidden!"}
					>
						{total.sums[c.id] ? numberText(total.sums[c.id] as string, c) : i === 0 && `Total of ${total.count}`}
					</td>
				))}
				{acts && <td className="max-md:hidden!" />}
			</tr>
		</tfoot>
	);
}

function RowView({
	list,
	where,
	row,
	open,
	wide,
	acts,
}: WayProps & { row: Row; open: Open; wide: number; acts: boolean }) {
	const { button, unfolded } = useUnfold(list, row);
	const line = (
		<tr
			className={open ? "opens" : ""}
			onClick={open ? () => open.open(row) : undefined}
			data-row
			{...lookOf(list, row)}
		>
			{button && <td className="records-unfold">{button}</td>}
			{list.columns.map((c, i) => (
				<td key={c.id} data-name={c.name} className={c.kind === "number" ? "md:text-right tabular-nums" : ""}>
					{list.edits.includes(c.id) ? (
						<EditCell row={row} column={c} block={list.id} where={where} />
					) : i === 0 && open ? (
						<Link to={open.to(row)} className="row-link" onClick={(e) => e.stopPropagation()}>
							{valueText(row, c) || "Open"}
						</Link>
					) : (
						<Cell row={row} column={c} plain={i === 0} />
					)}
				</td>
			))}
			{acts && (
				<td className="records-acts">
					<Inside list={list} where={where} row={row} />
				</td>
			)}
		</tr>
	);
	if (!unfolded) return line;
	return (
		<>
			{line}
			<tr className="records-unfolded">
				<td colSpan={wide}>{unfolded}</td>
			</tr>
		</>
	);
}
