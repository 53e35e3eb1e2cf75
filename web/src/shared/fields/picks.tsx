import { Star } from "lucide-react";
import type { InputProps } from "./input";
import { numberText } from "./values";
import "./picks.css";

type PicksProps = InputProps & {
	labelledBy: string;
	as: "radio" | "buttons" | "cards";
	/** The address of a picture of a choice. */
	picture?: (id: string) => string;
};

/** A choice, or yes or no, with all that can be chosen there at once: under each other, as buttons, or as cards. */
export function Picks(p: PicksProps) {
	const choices =
		p.column.type === "yes/no"
			? [
					{ id: "yes", label: "Yes" },
					{ id: "no", label: "No" },
				]
			: (p.column.choices?.filter((c) => !c.retired || c.id === p.value) ?? []);
	const now = p.column.type === "yes/no" ? (p.value === null ? "" : p.value ? "yes" : "no") : p.value;
	const choose = (id: string | null) => p.onChange(p.column.type === "yes/no" && id !== null ? id === "yes" : id);
	return (
		<div
			role="radiogroup"
			aria-labelledby={p.labelledBy}
			aria-describedby={p.describedBy}
			aria-invalid={p.invalid || undefined}
			aria-required={p.required || undefined}
			className={`picks picks-${p.as}`}
		>
			{choices.map((c, i) => (
				<label key={c.id}>
					<input
						type="radio"
						id={i === 0 ? p.id : undefined}
						name={p.id}
						checked={now === c.id}
						onChange={() => choose(c.id)}
					/>
					{p.as === "cards" && "picture" in c && c.picture && p.picture && <img src={p.picture(c.picture)} alt="" />}
					<span>{c.label}</span>
				</label>
			))}
			{!p.required && now ? (
				<button type="button" className="text-link" onClick={() => choose(null)}>
					Choose none
				</button>
			) : null}
		</div>
	);
}

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

/** A number between nought and the most that it can be. */
export function Slider(p: InputProps) {
	const most = p.column.most ?? 100;
	return (
		<div className="slider">
			<input
				type="range"
				id={p.id}
				min={0}
				max={most}
				step={most > 10 ? 1 : most / 100}
				value={Number(p.value ?? 0)}
				aria-describedby={p.describedBy}
				aria-invalid={p.invalid || undefined}
				onChange={(e) => p.onChange(e.target.value)}
			/>
			<output htmlFor={p.id}>{p.value === null ? "–" : numberText(String(p.value), p.column)}</output>
		</div>
	);
}
