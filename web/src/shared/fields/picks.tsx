import type { InputProps } from "./input";
import "./picks.css";

/** A choice, or yes or no, with all that can be chosen there at once: under each other, or as buttons. */
export function Picks(p: InputProps & { labelledBy: string; as: "radio" | "buttons" }) {
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
