import { Star } from "lucide-react";
import type { Column } from "../../shared/fields/values";
import { numberText } from "../../shared/fields/values";
import "./measure.css";

/** A number as stars or as a bar. Who hears the page hears the number. */
export default function Measure({ value, column }: { value: number; column: Column }) {
	const most = column.most || 100;
	const text = numberText(String(value), column);
	if (column.show === "rating")
		return (
			<span className="measure-stars" role="img" aria-label={`${text} of ${most}`}>
				{Array.from({ length: most }, (_, i) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: stars are told apart by their place
					<Star key={i} size={16} aria-hidden data-on={i < Math.round(value)} />
				))}
			</span>
		);
	return (
		<span className="measure">
			<span className="measure-bar" aria-hidden>
				<span style={{ width: `${Math.min(100, Math.max(0, (value / most) * 100))}%` }} />
			</span>
			<span className="tabular-nums">{text}</span>
		</span>
	);
}
