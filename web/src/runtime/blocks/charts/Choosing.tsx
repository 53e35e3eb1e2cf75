import { useRef, useState } from "react";
import { useAsks } from "../../asks";
import { useAway } from "../../away";
import { type Days, daysText } from "./told";

/** The days over which a figure or a chart goes, where people can choose them; they stand in the address. */
export function Choosing({ id, days }: { id: string; days: Days }) {
	const asks = useAsks(id);
	const [own, setOwn] = useState(false);
	const [from, setFrom] = useState(days.from);
	const [to, setTo] = useState(days.to);
	const box = useRef<HTMLDivElement>(null);
	const begin = () => {
		setFrom(days.from);
		setTo(days.to);
		setOwn(true);
	};
	useAway(own, box, () => setOwn(false));
	if (!days.choose) return null;
	const wrong = Boolean(from && to && to < from);
	return (
		<div ref={box} className="filter">
			<select
				className="field-input chart-select"
				aria-label="Days"
				value={days.range}
				onChange={(e) => {
					if (e.target.value === "own") return begin();
					setOwn(false);
					asks.set({ days: e.target.value ? e.target.value.replaceAll(" ", "-") : "all" });
				}}
			>
				<option value="">all the time</option>
				{days.offered?.map((r) => (
					<option key={r} value={r}>
						{r}
					</option>
				))}
				<option value="own">{days.range === "own" ? daysText(days) : "own days …"}</option>
			</select>
			{days.range === "own" && !own && (
				<button type="button" className="text-link text-sm" onClick={begin}>
					Change
				</button>
			)}
			{own && (
				<form
					className="filter-box"
					onSubmit={(e) => {
						e.preventDefault();
						if (wrong || !(from || to)) return;
						setOwn(false);
						asks.set({ days: `${from}..${to}` });
					}}
				>
					<label className="filter-option">
						<span className="w-12">From</span>
						<input type="date" className="field-input" value={from} onChange={(e) => setFrom(e.target.value)} />
					</label>
					<label className="filter-option">
						<span className="w-12">To</span>
						<input type="date" className="field-input" value={to} onChange={(e) => setTo(e.target.value)} />
					</label>
					{wrong && (
						<p role="alert" className="text-bad text-sm">
							They end before they begin.
						</p>
					)}
					<button type="submit" className="button" disabled={wrong || !(from || to)}>
						Show
					</button>
				</form>
			)}
		</div>
	);
}
