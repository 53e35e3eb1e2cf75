import { useQuery } from "@tanstack/react-query";
import { request, withQuery } from "../../shared/api/client";
import { type Column, type Row, valueText } from "../../shared/fields/values";
import { type BlockOf, base, type ServiceRows } from "../place";
import type { BlockProps } from ".";

/** What a service elsewhere answers, as a table, or with names where it is about one thing. */
export default function Service({ block, where }: BlockProps<"service">) {
	const answer = useQuery({
		queryKey: ["service", block.id, where],
		queryFn: () => request<ServiceRows>("GET", withQuery(`${base}/-/services/${block.id}`, { ...where })),
		staleTime: 60_000,
	});
	if (answer.isPending) return <p className="card empty">Asking …</p>;
	const problem = answer.isError ? answer.error.message : answer.data.problem;
	if (problem) return <p className="card empty">{problem}</p>;
	if (!answer.data) return null;
	if (answer.data.rows.length === 0)
		return <p className="card empty">{block.empty || "There is nothing at the moment."}</p>;
	return (
		<>
			{block.one ? <One block={block} of={answer.data} /> : <Rows block={block} of={answer.data} />}
			{answer.data.at && (
				<p className="text-soft text-sm mt-1">
					As of {valueText({ at: answer.data.at } as unknown as Row, column("at", "time stamp"))}
				</p>
			)}
		</>
	);
}

const column = (id: string, kind: string) => ({ id, name: id, kind, type: kind }) as unknown as Column;

/** The text of a value of an answer. */
function text(block: BlockOf<"service">, row: unknown[], at: number): string {
	return valueText({ v: row[at] ?? null } as unknown as Row, column("v", block.columns[at]?.type ?? "text"));
}

interface AnswerProps {
	block: BlockOf<"service">;
	of: ServiceRows;
}

function Rows({ block, of }: AnswerProps) {
	const right = (i: number) => (block.columns[i]?.type === "number" ? "text-right" : "");
	return (
		<div className="card list-card">
			<table className="records">
				<thead>
					<tr>
						{block.columns.map((c, i) => (
							<th key={c.name} className={right(i)}>
								<span className="records-name">{c.name}</span>
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{of.rows.map((r, n) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: rows of an answer have no other order
						<tr key={n}>
							{block.columns.map((c, i) => (
								<td key={c.name} data-name={c.name} className={right(i) && "md:text-right tabular-nums"}>
									{text(block, r, i)}
								</td>
							))}
						</tr>
					))}
				</tbody>
			</table>
		</div>
	);
}

function One({ block, of }: AnswerProps) {
	return (
		<dl className="card details">
			{block.columns.map((c, i) => (
				<div key={c.name}>
					<dt>{c.name}</dt>
					<dd>{text(block, of.rows[0] ?? [], i)}</dd>
				</div>
			))}
		</dl>
	);
}
