import type { InputProps } from "./input";
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
