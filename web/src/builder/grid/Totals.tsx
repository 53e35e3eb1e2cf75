import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { request, withQuery } from "../../shared/api/client";
import { numberText, type Row, valueText } from "../../shared/fields/values";
import { appUrl, type FieldOut, type TotalsOut } from "../api";
import { ErrorNote, Loading, Modal } from "../ui";

interface TotalsProps {
	app: string;
	table: string;
	name: string;
	columns: FieldOut[];
	asked: { as: string; search: string; filter: string };
	onClose: () => void;
}

/** How many records there are, and the sums of their numbers, for each value of a field. */
export function Totals({ app, table, name, columns, asked, onClose }: TotalsProps) {
	const groupable = columns.filter((c) => !c.many);
	const [group, setGroup] = useState(
		(groupable.find((c) => c.kind === "choice" || c.kind === "record") ?? groupable[0])?.id ?? "",
	);
	const by = columns.find((c) => c.id === group);
	const sums = columns.filter((c) => c.kind === "number" && c.type !== "percentage");
	const totals = useQuery({
		queryKey: ["app", app, "totals", table, asked, group],
		queryFn: () =>
			request<TotalsOut>(
				"GET",
				withQuery(appUrl(app, `/tables/${table}/totals`), {
					as: asked.as,
					search: asked.search,
					filter: asked.filter,
					group,
				}),
			),
	});
	return (
		<Modal title={`Totals for ${name}`} open wide onClose={onClose}>
			<label className="flex items-center gap-2 mb-3">
				For each
				<select className="input !w-auto" value={group} onChange={(e) => setGroup(e.target.value)}>
					{groupable.map((c) => (
						<option key={c.id} value={c.id}>
							{c.name}
						</option>
					))}
				</select>
			</label>
			{totals.isError ? (
				<ErrorNote error={totals.error} />
			) : !totals.data || !by ? (
				<Loading />
			) : (
				<div className="overflow-auto max-h-[60vh]">
					<table className="w-full text-left">
						<thead>
							<tr className="border-b border-line">
								<th className="py-1.5 pr-4 font-semibold">{by.name}</th>
								<th className="py-1.5 pr-4 font-semibold text-right">Records</th>
								{sums.map((c) => (
									<th key={c.id} className="py-1.5 pr-4 font-semibold text-right">
										{c.name}
									</th>
								))}
							</tr>
						</thead>
						<tbody>
							{totals.data.groups.map((g) => {
								const row: Row = { [by.id]: g.group, [`${by.id}~`]: g.label };
								return (
									<tr key={String(g.group)} className="border-b border-line">
										<td className="py-1.5 pr-4">{valueText(row, by) || "Empty"}</td>
										<td className="py-1.5 pr-4 text-right tabular-nums">{String(g.count)}</td>
										{sums.map((c) => (
											<td key={c.id} className="py-1.5 pr-4 text-right tabular-nums">
												{typeof g[c.id] === "string" ? numberText(String(g[c.id]), c) : ""}
											</td>
										))}
									</tr>
								);
							})}
						</tbody>
					</table>
				</div>
			)}
		</Modal>
	);
}
