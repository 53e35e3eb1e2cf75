import { Plus, X } from "lucide-react";
import { useId } from "react";
import type { Slot } from "../api";
import { ExpressionField } from "../expression/ExpressionField";
import { IconButton } from "./Ordered";

export interface Rule {
	holds: string;
	says?: string;
}

interface RulesProps {
	app: string;
	slot: Slot;
	value: Rule[];
	onChange: (v: Rule[]) => void;
}

/** Conditions that have to hold, each with what is said where it does not. */
export function Rules({ app, slot, value, onChange }: RulesProps) {
	const id = useId();
	const put = (i: number, next: Rule) => onChange(value.map((v, j) => (j === i ? next : v)));
	return (
		<div className="grid gap-2">
			{value.map((r, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: the order is what tells them apart
				<div key={i} className="grid gap-1 border border-line rounded-md p-2">
					<ExpressionField
						id={`${id}-${i}`}
						app={app}
						label="It must be so that"
						scope={slot.scope ?? { want: "condition" }}
						value={r.holds}
						onChange={(holds) => put(i, { ...r, holds })}
					/>
					<div className="flex gap-1 items-end">
						<label className="grid gap-1 flex-1 text-sm">
							Otherwise it says
							<input
								className="input"
								value={r.says ?? ""}
								maxLength={200}
								placeholder="This answer does not fit. Check it."
								onChange={(e) => put(i, { ...r, says: e.target.value })}
							/>
						</label>
						<IconButton
							label="Remove the rule"
							onClick={() => onChange(value.toSpliced(i, 1))}
							icon={<X size={14} aria-hidden />}
						/>
					</div>
				</div>
			))}
			<button
				type="button"
				className="btn justify-self-start"
				onClick={() => onChange([...value, { holds: "", says: "" }])}
			>
				<Plus size={14} aria-hidden /> Add a rule
			</button>
		</div>
	);
}
