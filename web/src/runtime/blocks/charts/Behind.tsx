import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { request, withQuery } from "../../../shared/api/client";
import { valueText } from "../../../shared/fields/values";
import { useView } from "../../asks";
import { base, type Behind as Records, type Where } from "../../place";

interface BehindProps {
	block: string;
	where: Where;
	/** The key of a group, or nothing for all. */
	group?: string;
	/** What is left beside the groups that are shown. */
	others?: boolean;
	title: string;
	onClose: () => void;
}

/** The records of which a number is made. */
export function Behind({ block, where, group, others, title, onClose }: BehindProps) {
	const view = useView(where.path);
	const box = useRef<HTMLElement>(null);
	const found = useQuery({
		queryKey: ["page", "behind", block, where, view, group, others],
		queryFn: () => {
			const of = withQuery(`${base}/-/figures/${block}`, { ...where, view, others: others ? "true" : undefined });
			// the key of those that have no value is empty, and is asked for all the same
			return request<Records>("GET", group === undefined || others ? of : `${of}&group=${encodeURIComponent(group)}`);
		},
	});
	useEffect(() => box.current?.focus(), []);
	return (
		<section
			ref={box}
			tabIndex={-1}
			className="chart-behind"
			aria-label={title}
			onKeyDown={(e) => e.key === "Escape" && onClose()}
		>
			<div className="chart-head">
				<h4>
					{title}
					{found.data && `: ${found.data.count} ${found.data.count === 1 ? "record" : "records"}`}
				</h4>
				<button type="button" className="chart-tool" onClick={onClose}>
					<X size={14} aria-hidden /> Close
				</button>
			</div>
			{found.isError && (
				<p role="alert" className="note">
					{found.error.message}
				</p>
			)}
			{found.isPending && <p className="text-soft">Reading …</p>}
			{found.data && found.data.rows.length > 0 && <Rows of={found.data} />}
			{found.data && found.data.count > found.data.rows.length && (
				<p className="text-soft text-sm">The first {found.data.rows.length} are shown.</p>
			)}
		</section>
	);
}

function Rows({ of }: { of: Records }) {
	return (
		<div className="chart-table">
			<table>
				<thead>
					<tr>
						<th scope="col">Record</th>
						{of.columns.map((c) => (
							<th key={c.id} scope="col">
								{c.name}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{of.rows.map((r) => (
						<tr key={String(r.id)}>
							<th scope="row">
								{of.open ? (
									<Link to={`/${of.open}/${r.id}`} className="text-link">
										{String(r.label || "(no name)")}
									</Link>
								) : (
									String(r.label || "(no name)")
								)}
							</th>
							{of.columns.map((c) => (
								<td key={c.id}>{valueText(r, c)}</td>
							))}
						</tr>
					))}
				</tbody>
			</table>
		</div>
	);
}
