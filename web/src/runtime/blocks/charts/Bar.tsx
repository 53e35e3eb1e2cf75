import type { BlockProps } from "..";
import { Filters } from "../records/Filters";
import { Choosing } from "./Choosing";
import { daysText } from "./told";
import "./charts.css";

/** What people choose once for all that follows it on the page: days, and what fields hold. */
export default function Bar({ block, where }: BlockProps<"bar">) {
	return (
		<section className="filter-bar" aria-label="Filters of this page">
			<Choosing id={block.id} days={block.days} />
			<Filters list={block} where={where} />
			<span className="text-soft text-sm">{daysText(block.days)}</span>
			{block.notes?.map((n) => (
				<p key={n} role="status" className="note">
					{n}
				</p>
			))}
		</section>
	);
}
