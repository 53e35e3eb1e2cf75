import { Files } from "../../shared/fields/files";
import { type Column, type Row, valueText } from "../../shared/fields/values";
import { fileHref } from "../place";
import type { BlockProps } from ".";
import { Cell, EditCell } from "./records/Cell";

/** Fields of the page's record, or of one to which it links. Some are changed where they stand. */
export default function Details({ block, where }: BlockProps<"details">) {
	const { columns, row, edits, title } = block;
	return (
		<section className="grid gap-2">
			{title && <h2 className="list-title">{title}</h2>}
			{columns.length === 0 ? (
				<p className="card empty">{row.id ? "You can’t see any of these details." : "There is nothing here yet."}</p>
			) : (
				<dl className="card details">
					{columns.map((c) => (
						<div key={c.id}>
							<dt>{c.name}</dt>
							<dd className="whitespace-pre-line">
								{edits.includes(c.id) ? (
									<EditCell row={row} column={c} block={block.id} where={where} />
								) : (
									<Detail row={row} column={c} />
								)}
							</dd>
						</div>
					))}
				</dl>
			)}
		</section>
	);
}

function Detail({ row, column }: { row: Row; column: Column }) {
	if (!valueText(row, column)) return <span className="text-soft">–</span>;
	if (column.kind === "file") return <Files row={row} column={column} href={fileHref(row, column)} height={140} />;
	return <Cell row={row} column={column} />;
}
