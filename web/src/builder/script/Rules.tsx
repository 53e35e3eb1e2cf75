import { Plus, X } from "lucide-react";
import { useId } from "react";
import type { Slot } from "../api";
import { ExpressionField } from "../expression/ExpressionField";
import { IconButton } from "./Ordered";

export interface Rule {
	holds: string;
	says?: string;
	tone?: string;
}

interface RulesProps {
	app: string;
	slot: Slot;
	value: Rule[];
	onChange: (v: Rule[]) => void;
}

const ruleWords = {
	holds: "It must be so that",
	says: "Otherwise it says",
	example: "This answer does not fit. Check it.",
	remove: "Remove the rule",
	add: "Add a rule",
};
const bandWords = { holds: "When", says: "It says", example: "Heavy", remove: "Remove these words", add: "Add words" };

/** Conditions that have to hold, each with what is said where it does not; or those by which something is said. */
export function Rules({ app, slot, value, onChange }: RulesProps) {
	const id = useId();
	const bands = slot.control === "bands";
	const words = bands ? bandWords : ruleWords;
	const put = (i: number, next: Rule) => onChange(value.map((v, j) => (j === i ? next : v)));
	return (
		<div className="grid gap-2">
			{value.map((r, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: the order is what tells them apart
				<div key={i} className="grid gap-1 border border-line rounded-md p-2">
					<ExpressionField
						id={`${id}-${i}`}
						app={app}
						label={words.holds}
						scope={slot.scope ?? { want: "condition" }}
						value={r.holds}
						onChange={(holds) => put(i, { ...r, holds })}
					/>
					<div className="flex gap-1 items-end">
						<label className="grid gap-1 flex-1 text-sm">
							{words.says}
							<input
								className="input"
								value={r.says ?? ""}
								maxLength={200}
								placeholder={words.example}
								onChange={(e) => put(i, { ...r, says: e.target.value })}
							/>
						</label>
						{bands && (
							<label className="grid gap-1 text-sm">
								Tone
								<select
									className="input"
									value={r.tone ?? ""}
									onChange={(e) => put(i, { ...r, tone: e.target.value || undefined })}
								>
									{slot.options?.map((o) => (
										<option key={o.value} value={o.value}>
											{o.label}
										</option>
									))}
								</select>
							</label>
						)}
						<IconButton
							label={words.remove}
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
				<Plus size={14} aria-hidden /> {words.add}
			</button>
		</div>
	);
}
