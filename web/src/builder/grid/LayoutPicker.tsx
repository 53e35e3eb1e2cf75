import { ArrowDown, ArrowUp } from "lucide-react";
import type { FieldOut, ViewSettings } from "../api";
import { ordered } from "./view";

interface PickerProps {
	fields: FieldOut[];
	layout: ViewSettings;
	onChange: (l: ViewSettings) => void;
}

/** Which columns are shown, in which order, and how many stay in place. */
export function LayoutPicker({ fields, layout, onChange }: PickerProps) {
	const list = ordered(fields, layout);
	const ids = list.map((f) => f.id);
	const move = (from: number, to: number) => {
		const order = [...ids];
		order.splice(to, 0, ...order.splice(from, 1));
		onChange({ ...layout, order });
	};
	const show = (id: string, on: boolean) =>
		onChange({ ...layout, hidden: on ? layout.hidden.filter((x) => x !== id) : [...layout.hidden, id] });
	return (
		<div className="grid gap-3">
			<p className="font-display font-semibold text-base">Columns</p>
			<ol className="grid gap-0.5">
				{list.map((f, i) => (
					<li key={f.id} className="flex items-center gap-1">
						<label className="flex-1 flex items-center gap-2 truncate">
							<input
								type="checkbox"
								className="accent-(--pine)"
								checked={!layout.hidden.includes(f.id)}
								onChange={(e) => show(f.id, e.target.checked)}
							/>
							<span className="truncate">{f.name}</span>
						</label>
						<button
							type="button"
							className="p-1 disabled:opacity-30"
							disabled={i === 0}
							aria-label={`Move ${f.name} to the left`}
							onClick={() => move(i, i - 1)}
						>
							<ArrowUp size={14} />
						</button>
						<button
							type="button"
							className="p-1 disabled:opacity-30"
							disabled={i === list.length - 1}
							aria-label={`Move ${f.name} to the right`}
							onClick={() => move(i, i + 1)}
						>
							<ArrowDown size={14} />
						</button>
					</li>
				))}
			</ol>
			<label className="flex items-center gap-2">
				Stay in place while scrolling:
				<select
					className="input !w-auto"
					value={layout.frozen}
					onChange={(e) => onChange({ ...layout, frozen: Number(e.target.value) })}
				>
					{[0, 1, 2, 3].map((n) => (
						<option key={n} value={n}>
							{n === 0 ? "none" : `first ${n}`}
						</option>
					))}
				</select>
			</label>
		</div>
	);
}
