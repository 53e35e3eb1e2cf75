import { useState } from "react";
import { say } from "../words";
import { type FileInfo, FileInput } from "./files";
import { LinkSearch } from "./link";
import { type Column, enteredValue, type RecordOption, type Value } from "./values";

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
	/** The first records that the field leads to now, with their labels, and how many there are. */
	linked?: { records: RecordOption[]; count: number };
	label?: string;
	/** Searches the records that a link can point to, where there are too many to offer at once. */
	search?: (words: string) => Promise<RecordOption[]>;
	/** Adds a record of the name to link to, where that can be done on the way. */
	onNew?: (name: string) => Promise<RecordOption | null>;
	/** An example of what can be entered. */
	placeholder?: string;
	/** What is known of the files that the field holds. */
	files?: FileInfo[];
	/** Sends a file, to be kept with the record. */
	send?: (file: File, progress: (part: number) => void) => Promise<FileInfo>;
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
		case "rich text":
			return <textarea {...common} placeholder={p.placeholder} rows={4} value={text} onChange={set} />;
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
		case "time stamp":
			return <TimeInput common={common} {...p} />;
		case "number":
		case "money":
			return <input {...common} placeholder={p.placeholder} inputMode="decimal" value={text} onChange={set} />;
		case "percentage":
			return <Percentage common={common} {...p} />;
		case "duration":
			return <input {...common} placeholder="7:30" value={text} onChange={set} />;
		case "e-mail":
			return (
				<input {...common} placeholder={p.placeholder} type="email" value={text} onChange={set} autoComplete="email" />
			);
		case "phone":
			return (
				<input {...common} placeholder={p.placeholder} type="tel" value={text} onChange={set} autoComplete="tel" />
			);
		case "web address":
			return <input {...common} inputMode="url" placeholder="https://" value={text} onChange={set} />;
		case "choice":
			return (
				<select {...common} value={text} onChange={set}>
					<option value="" />
					{text && !p.column.choices?.some((c) => c.id === text) && <option value={text}>Removed choice</option>}
					{p.column.choices
						?.filter((c) => !c.retired || c.id === text)
						.map((c) => (
							<option key={c.id} value={c.id}>
								{c.label}
							</option>
						))}
				</select>
			);
		case "file":
		case "picture":
			return p.send ? (
				<FileInput
					{...p}
					value={idsOf(p.value)}
					files={p.files ?? []}
					send={p.send}
					onChange={(ids) => p.onChange(ids.length ? ids : null)}
				/>
			) : null;
		case "several choices":
			return <SeveralChoices {...p} />;
		case "links":
			return <SeveralLinks {...p} />;
		case "link":
			return p.search ? (
				<LinkSearch {...p} search={p.search} />
			) : (
				<select {...common} value={text} onChange={set}>
					<option value="" />
					{text && !p.options?.some((o) => o.id === text) && <option value={text}>{p.label || "Hidden"}</option>}
					{p.options?.map((o) => (
						<option key={o.id} value={o.id}>
							{o.label}
						</option>
					))}
				</select>
			);
	}
	return <input {...common} placeholder={p.placeholder} value={text} onChange={set} />;
}

type Common = React.InputHTMLAttributes<HTMLInputElement>;

/** A percentage is kept as a fraction and entered with its sign. */
function Percentage({ common, ...p }: InputProps & { common: Common }) {
	const [text, setText] = useState(() =>
		typeof p.value !== "string"
			? ""
			: p.value.endsWith("%")
				? p.value
				: `${Number((Number(p.value) * 100).toPrecision(15))}%`,
	);
	return (
		<input
			{...common}
			inputMode="decimal"
			placeholder="20%"
			value={text}
			onChange={(e) => {
				setText(e.target.value);
				p.onChange(enteredValue(e.target.value, p.column));
			}}
		/>
	);
}

/** A time stamp, entered by the clock of the reader. */
function TimeInput({ common, ...p }: InputProps & { common: Common }) {
	const [text, setText] = useState(() => (typeof p.value === "string" ? localTime(p.value) : ""));
	return (
		<input
			{...common}
			type="datetime-local"
			value={text}
			onChange={(e) => {
				setText(e.target.value);
				p.onChange(enteredValue(e.target.value, p.column));
			}}
		/>
	);
}

function localTime(iso: string): string {
	const d = new Date(iso);
	return Number.isNaN(d.getTime())
		? ""
		: new Date(d.getTime() - d.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

const idsOf = (v: Value) => (Array.isArray(v) ? v : []);

function SeveralChoices(p: InputProps) {
	const chosen = idsOf(p.value);
	const put = (id: string, on: boolean) => {
		const next = on ? [...chosen, id] : chosen.filter((x) => x !== id);
		p.onChange(next.length ? next : null);
	};
	return (
		<fieldset
			id={p.id}
			className="grid gap-1 max-h-56 overflow-auto"
			aria-label={p.column.name}
			aria-describedby={p.describedBy}
		>
			{p.column.choices
				?.filter((c) => !c.retired || chosen.includes(c.id))
				.map((c, i) => (
					<label key={c.id} className="flex items-center gap-2">
						<input
							type="checkbox"
							// biome-ignore lint/a11y/noAutofocus: only set where the person just asked for this control
							autoFocus={p.autoFocus && i === 0}
							checked={chosen.includes(c.id)}
							onChange={(e) => put(c.id, e.target.checked)}
						/>
						{c.label}
					</label>
				))}
		</fieldset>
	);
}

/** Several records, found by words of their labels. */
function SeveralLinks(p: InputProps) {
	const chosen = idsOf(p.value);
	const [known, setKnown] = useState<Record<string, string>>(() =>
		Object.fromEntries([...(p.options ?? []), ...(p.linked?.records ?? [])].map((o) => [o.id, o.label])),
	);
	const unnamed = (p.linked?.count ?? 0) - (p.linked?.records.length ?? 0);
	const add = (o: RecordOption) => {
		setKnown({ ...known, [o.id]: o.label });
		if (!chosen.includes(o.id)) p.onChange([...chosen, o.id]);
	};
	return (
		<div className="grid gap-1">
			{chosen.length > 0 && (
				<ul className="grid gap-1 max-h-40 overflow-auto">
					{chosen.map((id) => (
						<li key={id} className="flex items-center justify-between gap-2">
							<span className="truncate">{known[id] || "(no name)"}</span>
							<button
								type="button"
								className="link-button"
								aria-label={`Remove ${known[id] || "this record"}`}
								onClick={() => p.onChange(chosen.filter((x) => x !== id))}
							>
								Remove
							</button>
						</li>
					))}
				</ul>
			)}
			{unnamed > 0 && (
				<p className="text-soft">
					{say("and {n} more, which stays linked||and {n} more, which stay linked", { n: unnamed })}
				</p>
			)}
			<LinkSearch
				{...p}
				value={null}
				label=""
				column={{ ...p.column, type: "link" }}
				search={p.search ?? (async () => p.options ?? [])}
				onPick={add}
			/>
		</div>
	);
}
