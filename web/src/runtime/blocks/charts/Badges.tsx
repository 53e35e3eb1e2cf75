import { timeText } from "../../../shared/fields/values";
import type { BlockOf } from "../../place";
import type { BlockProps } from "..";
import { BadgePicture } from "./Badge";
import "./charts.css";
import { aimText } from "./Goal";

type Held = BlockOf<"badges">["badges"][number];

/** What whoever looks reached, and what they still can. */
export default function Badges({ block }: BlockProps<"badges">) {
	if (block.hidden) return <p className="empty">Badges are for people who sign in here. You have none.</p>;
	return (
		<section className="card awards" aria-label={block.title || "Badges"}>
			{block.title && <h3>{block.title}</h3>}
			{block.badges.length === 0 ? (
				<p className="empty">There are no badges to reach yet.</p>
			) : (
				<ul className="award-list">
					{block.badges.map((b) => (
						<li key={`${b.name} ${b.range ?? ""} ${b.last ?? ""}`} className="award" data-won={b.times > 0}>
							<span className="award-picture">
								<BadgePicture name={b.picture} size={26} />
								{b.times > 1 && (
									<span className="award-times" aria-hidden="true">
										{b.times}×
									</span>
								)}
							</span>
							<b>{b.name}</b>
							{b.last && (
								<span className="text-sm">
									{b.times === 1 ? "Reached" : `Reached ${b.times} times, last`} {timeText(b.last)}
								</span>
							)}
							{b.times === 0 && <span className="text-sm">Not reached yet</span>}
							{howText(b) && <span className="text-soft text-sm">{howText(b)}</span>}
						</li>
					))}
				</ul>
			)}
		</section>
	);
}

/** How a badge is reached, in words. */
const howText = (b: Held) =>
	[
		...(b.measures ?? []).map((m) => `${m.name}: ${aimText(m) || "its target"}`),
		...(b.range && b.measures?.length ? [b.range] : []),
	].join(", ");
