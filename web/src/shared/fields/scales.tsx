import { Star } from "lucide-react";
import type { InputProps } from "./input";
import { numberText } from "./values";
import "./picks.css";

/** A number as so many stars. */
export function Stars(p: InputProps & { labelledBy: string }) {
	const most = Math.round(p.column.most ?? 5);
	const now = Number(p.value ?? 0);
	return (
		<div
			role="radiogroup"
			aria-labelledby={p.labelledBy}
			aria-describedby={p.describedBy}
			aria-invalid={p.invalid || undefined}
			aria-required={p.required || undefined}
			className="stars"
		>
			{Array.from({ length: most }, (_, i) => i + 1).map((n) => (
				<label key={n} data-on={n <= now}>
					<input
						type="radio"
						id={n === 1 ? p.id : undefined}
						name={p.id}
						aria-label={`${n} of ${most}`}
						checked={n === now}
						onChange={() => p.onChange(String(n))}
					/>
					<Star size={26} aria-hidden="true" />
				</label>
			))}
			{!p.required && now > 0 ? (
				<button type="button" className="text-link" onClick={() => p.onChange(null)}>
					Choose none
				</button>
			) : null}
		</div>
	);
}

/** A number between the least and the most that it can be. */
export function Slider(p: InputProps) {
	const { least = 0, most = 100, decimals } = p.column;
	const fine = (most - least) / 100;
	const step = decimals === undefined ? (most - least > 10 ? 1 : fine) : Math.max(10 ** -decimals, fine < 1 ? 0 : 1);
	return (
		<div className="slider">
			<input
				type="range"
				id={p.id}
				min={least}
				max={most}
				step={step}
				value={Number(p.value ?? least)}
				aria-describedby={p.describedBy}
				aria-invalid={p.invalid || undefined}
				onChange={(e) => p.onChange(e.target.value)}
			/>
			<output htmlFor={p.id}>{p.value === null ? "–" : numberText(String(p.value), p.column)}</output>
		</div>
	);
}
