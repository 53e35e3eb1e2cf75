import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import type { Column, RecordOption, Value } from "./values";

export interface InputProps {
	id: string;
	column: Column;
	value: Value;
	onChange: (value: Value) => void;
	required?: boolean;
	describedBy?: string;
	invalid?: boolean;
	autoFocus?: boolean;
	options?: RecordOption[];
	label?: string;
	/** Searches the records that a link can point to, where there are too many to offer at once. */
	search?: (words: string) => Promise<RecordOption[]>;
}

/** The right control for a field's type. */
export function ValueInput(p: InputProps) {
	const common = {
		id: p.id,
		required: p.required,
		"aria-invalid": p.invalid || undefined,
		"aria-describedby": p.describedBy,
		autoFocus: p.autoFocus,
		className: "field-input",
	};
	const text = typeof p.value === "string" ? p.value : "";
	const set = (e: { target: { value: string } }) => p.onChange(e.target.value === "" ? null : e.target.value);
	switch (p.column.type) {
		case "long text":
			return <textarea {...common} rows={4} value={text} onChange={set} />;
		case "yes/no":
			return (
				<select
					{...common}
					value={p.value === null ? "" : p.value ? "yes" : "no"}
					onChange={(e) => p.onChange(e.target.value === "" ? null : e.target.value === "yes")}
				>
					<option value="" />
					<option value="yes">Yes</option>
					<option value="no">No</option>
				</select>
			);
		case "date":
			return <input {...common} type="date" value={text} onChange={set} />;
		case "number":
			return <input {...common} inputMode="decimal" value={text} onChange={set} />;
		case "e-mail":
			return <input {...common} type="email" value={text} onChange={set} autoComplete="email" />;
		case "choice":
			return (
				<select {...common} value={text} onChange={set}>
					<option value="" />
					{text && !p.column.choices?.some((c) => c.id === text) && <option value={text}>Removed choice</option>}
					{p.column.choices?.map((c) => (
						<option key={c.id} value={c.id}>
							{c.label}
						</option>
					))}
				</select>
			);
		case "link":
			return p.search ? (
				<LinkSearch {...p} search={p.search} />
			) : (
				<select {...common} value={text} onChange={set}>
					<option value="" />
					{text && !p.options?.some((o) => o.id === text) && <option value={text}>{p.label || "Not visible"}</option>}
					{p.options?.map((o) => (
						<option key={o.id} value={o.id}>
							{o.label}
						</option>
					))}
				</select>
			);
	}
	return <input {...common} value={text} onChange={set} />;
}

/** Picks a record out of many by words of its label. */
function LinkSearch(p: InputProps & { search: (words: string) => Promise<RecordOption[]> }) {
	const [words, setWords] = useState("");
	const [chosen, setChosen] = useState(p.label ?? "");
	const [open, setOpen] = useState(Boolean(p.autoFocus));
	const listId = useId();
	const found = useQuery({ queryKey: ["link", p.column.id, words], queryFn: () => p.search(words) });
	const pick = (o: RecordOption | null) => {
		setChosen(o?.label ?? "");
		setWords("");
		setOpen(false);
		p.onChange(o?.id ?? null);
	};
	return (
		<fieldset
			className="grid gap-1 min-w-0"
			onFocus={() => setOpen(true)}
			onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && setOpen(false)}
		>
			{p.value !== null && (
				<div className="flex items-center justify-between gap-2">
					<span>{chosen || "Chosen"}</span>
					<button type="button" className="link-button" onClick={() => pick(null)}>
						Clear
					</button>
				</div>
			)}
			<input
				id={p.id}
				className="field-input"
				// biome-ignore lint/a11y/noAutofocus: only set where the person just asked for this control
				autoFocus={p.autoFocus}
				aria-controls={listId}
				aria-invalid={p.invalid || undefined}
				aria-describedby={p.describedBy}
				placeholder="Type to search"
				value={words}
				onChange={(e) => setWords(e.target.value)}
			/>
			<ul id={listId} className="field-options" hidden={!open}>
				{found.data?.map((o) => (
					<li key={o.id}>
						<button type="button" aria-pressed={o.id === p.value} onClick={() => pick(o)}>
							{o.label}
						</button>
					</li>
				))}
				{found.data?.length === 0 && <li className="px-2 py-1 text-soft">Nothing found.</li>}
			</ul>
		</fieldset>
	);
}
