import { ArrowUp, Plus, X } from "lucide-react";
import { useId } from "react";
import type { Scope, Slot } from "../api";
import { ExpressionField } from "../expression/ExpressionField";
import { FormAddress } from "./FormAddress";
import { IconButton, type Option, Ordered } from "./Ordered";
import { PictureSlot } from "./PictureSlot";
import { type Rule, Rules } from "./Rules";

interface SlotProps {
	app: string;
	slot: Slot;
	value: unknown;
	onChange: (v: unknown) => void;
	autoFocus?: boolean;
}

/** The control for one value of a setting. */
export function SlotInput(p: SlotProps) {
	const id = useId();
	const { slot, value, onChange } = p;
	if (slot.control === "switch")
		return (
			<label className="flex items-center gap-2">
				<input
					type="checkbox"
					className="size-4 accent-(--pine)"
					checked={value === true}
					onChange={(e) => onChange(e.target.checked)}
				/>
				{slot.label}
			</label>
		);
	const label = (
		<span className="grid">
			<span className="font-medium">{slot.label}</span>
			{slot.help && <span className="text-soft text-sm">{slot.help}</span>}
		</span>
	);
	// several inputs are a group with a name of its own
	if (groups.includes(slot.control))
		return (
			<fieldset className="grid gap-1 min-w-0">
				<legend className="mb-1">{label}</legend>
				<Control id={id} {...p} />
			</fieldset>
		);
	return (
		<div className="grid gap-1">
			<label htmlFor={id}>{label}</label>
			<Control id={id} {...p} />
		</div>
	);
}

const groups = ["many", "questions", "given", "sets", "paths", "rules", "bands", "reach"];

function Control({ id, app, slot, value, onChange, autoFocus }: SlotProps & { id: string }) {
	const text = typeof value === "string" ? value : "";
	const options = slot.options ?? [];
	if (slot.long)
		return <textarea id={id} className="input" rows={4} value={text} onChange={(e) => onChange(e.target.value)} />;
	switch (slot.control) {
		case "pick":
			return (
				<select id={id} className="input" value={text} onChange={(e) => onChange(e.target.value)}>
					{!options.some((o) => o.value === text) && <option value={text}>Choose</option>}
					{options.map((o) => (
						<option key={o.value} value={o.value}>
							{o.label}
						</option>
					))}
				</select>
			);
		case "many":
			return <Ordered label={slot.label} options={options} value={value as string[]} onChange={onChange} />;
		case "questions":
			return <Questions label={slot.label} options={options} value={value as Question[]} onChange={onChange} />;
		case "given":
			return <Gives app={app} scope={slot.scope} options={options} value={value as Given[]} onChange={onChange} />;
		case "sets":
			return <Sets label={slot.label} options={options} value={value as string[][]} onChange={onChange} />;
		case "paths":
			return <Paths app={app} slot={slot} value={value as Path[]} onChange={onChange} />;
		case "rules":
		case "bands":
			return <Rules app={app} slot={slot} value={value as Rule[]} onChange={onChange} />;
		case "reach":
			return <Reaches app={app} slot={slot} value={value as Reach} onChange={onChange} />;
		case "expression":
			return (
				<ExpressionField
					id={id}
					app={app}
					label={slot.label}
					scope={slot.scope ?? { want: "value" }}
					offers={options}
					value={text}
					onChange={onChange}
				/>
			);
		case "number":
			return (
				<input
					id={id}
					className="input"
					inputMode="numeric"
					value={typeof value === "number" ? String(value) : ""}
					onChange={(e) => {
						const digits = e.target.value.replace(/\D/g, "");
						onChange(digits === "" ? null : Number(digits));
					}}
				/>
			);
		case "form address":
			return <FormAddress id={id} app={app} value={text} onChange={onChange} />;
		case "picture":
			return <PictureSlot id={id} app={app} value={text} onChange={onChange} />;
		case "colour":
			return (
				<span className="flex items-center gap-2">
					<input
						id={id}
						type="color"
						className="h-9 w-14"
						value={text || "#1E5B43"}
						onChange={(e) => onChange(e.target.value)}
					/>
					<button type="button" className="btn" disabled={!text} onClick={() => onChange("")}>
						No colour
					</button>
				</span>
			);
	}
	return (
		<input
			id={id}
			className="input"
			// biome-ignore lint/a11y/noAutofocus: the popover was opened to type here
			autoFocus={autoFocus}
			value={text}
			onChange={(e) => onChange(e.target.value)}
		/>
	);
}

interface Question {
	field: string;
	required?: boolean;
}

interface QuestionsProps {
	label: string;
	options: Option[];
	value: Question[];
	onChange: (v: Question[]) => void;
}

function Questions({ label, options, value, onChange }: QuestionsProps) {
	const required = (f: string) => value.find((q) => q.field === f)?.required ?? false;
	return (
		<Ordered
			label={label}
			options={options}
			value={value.map((q) => q.field)}
			onChange={(fields) => onChange(fields.map((field) => ({ field, required: required(field) })))}
			extra={(field) => (
				<label className="flex items-center gap-1 text-soft">
					<input
						type="checkbox"
						checked={required(field)}
						onChange={(e) => onChange(value.map((q) => (q.field === field ? { ...q, required: e.target.checked } : q)))}
					/>
					required
				</label>
			)}
		/>
	);
}

interface Given {
	field: string;
	value: string;
}

interface GivesProps {
	app: string;
	scope?: Scope;
	options: Option[];
	value: Given[];
	onChange: (v: Given[]) => void;
}

function Gives({ app, scope, options, value, onChange }: GivesProps) {
	const id = useId();
	const free = options.find((o) => !value.some((v) => v.field === o.value));
	const put = (i: number, next: Given) => onChange(value.map((v, j) => (j === i ? next : v)));
	return (
		<div className="grid gap-2">
			{value.map((v, i) => (
				<div key={v.field} className="grid gap-1 border border-line rounded-md p-2">
					<div className="flex gap-1">
						<select
							aria-label="Field"
							className="input"
							value={v.field}
							onChange={(e) => put(i, { ...v, field: e.target.value })}
						>
							{options
								.filter((o) => o.value === v.field || !value.some((x) => x.field === o.value))
								.map((o) => (
									<option key={o.value} value={o.value}>
										{o.label}
									</option>
								))}
						</select>
						<IconButton
							label="Remove"
							onClick={() => onChange(value.filter((_, j) => j !== i))}
							icon={<X size={14} />}
						/>
					</div>
					<ExpressionField
						id={`${id}-${i}`}
						app={app}
						label="Value"
						scope={scope ?? { want: "value" }}
						value={v.value}
						onChange={(x) => put(i, { ...v, value: x })}
					/>
				</div>
			))}
			{free && (
				<button
					type="button"
					className="btn justify-self-start"
					onClick={() => onChange([...value, { field: free.value, value: "me" }])}
				>
					<Plus size={14} aria-hidden /> Set a field
				</button>
			)}
		</div>
	);
}

/** Sets of things that belong together. */
function Sets({
	label,
	options,
	value,
	onChange,
}: {
	label: string;
	options: Option[];
	value: string[][];
	onChange: (v: string[][]) => void;
}) {
	const sets = value.length > 0 ? value : [[]];
	const put = (i: number, next: string[]) =>
		onChange(sets.map((s, j) => (j === i ? next : s)).filter((s) => s.length > 0));
	return (
		<div className="grid gap-3">
			{sets.map((set, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: sets have no names
				<Ordered key={i} label={label} options={options} value={set} onChange={(v) => put(i, v)} />
			))}
			{sets.every((s) => s.length > 1) && (
				<button
					type="button"
					className="btn justify-self-start"
					onClick={() => onChange([...sets, [options[0]?.value ?? ""]])}
				>
					<Plus size={14} aria-hidden /> Another combination
				</button>
			)}
		</div>
	);
}

interface Path {
	page: string;
	when?: string;
}

/** Pages of which the first that fits is taken. */
function Paths({
	app,
	slot,
	value,
	onChange,
}: {
	app: string;
	slot: Slot;
	value: Path[];
	onChange: (v: Path[]) => void;
}) {
	const id = useId();
	const options = slot.options ?? [];
	const put = (i: number, next: Path) => onChange(value.map((v, j) => (j === i ? next : v)));
	return (
		<div className="grid gap-2">
			{value.map((p, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: the order is what tells them apart
				<div key={i} className="grid gap-1 border border-line rounded-md p-2">
					<div className="flex gap-1">
						<select
							aria-label="Page"
							className="input"
							value={p.page}
							onChange={(e) => put(i, { ...p, page: e.target.value })}
						>
							{options.map((o) => (
								<option key={o.value} value={o.value}>
									{o.label}
								</option>
							))}
						</select>
						<IconButton
							label="Move up"
							disabled={i === 0}
							onClick={() => onChange(value.toSpliced(i, 1).toSpliced(i - 1, 0, p))}
							icon={<ArrowUp size={14} />}
						/>
						<IconButton label="Remove" onClick={() => onChange(value.toSpliced(i, 1))} icon={<X size={14} />} />
					</div>
					<ExpressionField
						id={`${id}-${i}`}
						app={app}
						label="If (empty for everyone)"
						scope={slot.scope ?? { want: "condition" }}
						value={p.when ?? ""}
						onChange={(when) => put(i, { ...p, when })}
					/>
				</div>
			))}
			{options[0] && (
				<button
					type="button"
					className="btn justify-self-start"
					onClick={() => onChange([...value, { page: options[0]?.value ?? "", when: "" }])}
				>
					<Plus size={14} aria-hidden /> Add a page
				</button>
			)}
		</div>
	);
}

interface Reach {
	extent: "none" | "all" | "where";
	condition?: string;
}

const extents = [
	["none", "none"],
	["all", "all"],
	["where", "only some, by a condition"],
] as const;

/** To which records something reaches. */
function Reaches({
	app,
	slot,
	value,
	onChange,
}: {
	app: string;
	slot: Slot;
	value: Reach;
	onChange: (v: Reach) => void;
}) {
	const id = useId();
	return (
		<div className="grid gap-2">
			<select
				aria-label={slot.label}
				className="input"
				value={value.extent}
				onChange={(e) => onChange({ ...value, extent: e.target.value as Reach["extent"] })}
			>
				{extents.map(([v, words]) => (
					<option key={v} value={v}>
						{words}
					</option>
				))}
			</select>
			{value.extent === "where" && (
				<ExpressionField
					id={id}
					app={app}
					label="Condition"
					scope={slot.scope ?? { want: "condition" }}
					offers={slot.options}
					value={value.condition ?? ""}
					onChange={(condition) => onChange({ ...value, condition })}
				/>
			)}
		</div>
	);
}
