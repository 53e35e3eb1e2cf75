import { ArrowDown, ArrowUp, GripVertical, Plus, X } from "lucide-react";
import { useId, useState } from "react";
import type { Scope, Slot } from "../api";
import { ExpressionField } from "../expression/ExpressionField";
import { PictureSlot } from "./PictureSlot";
import { droppedAt } from "./values";

type Option = { value: string; label: string };

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

const groups = ["many", "questions", "given", "sets", "paths", "reach"];

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

interface OrderedProps {
	label: string;
	options: Option[];
	value: string[];
	onChange: (v: string[]) => void;
	extra?: (id: string) => React.ReactNode;
}

/** Some of several options, in an order. */
function Ordered({ label, options, value, onChange, extra }: OrderedProps) {
	const name = (v: string) => options.find((o) => o.value === v)?.label ?? v;
	const free = options.filter((o) => !value.includes(o.value));
	const [dragged, setDragged] = useState(-1);
	const [over, setOver] = useState(-1);
	const drop = (at: number, below: boolean) => {
		setOver(-1);
		const to = droppedAt(dragged, at, below);
		if (dragged >= 0 && to !== dragged) move(dragged, to);
	};
	const move = (from: number, to: number) => {
		const next = [...value];
		next.splice(to, 0, ...next.splice(from, 1));
		onChange(next);
	};
	return (
		<div className="grid gap-1">
			{value.length === 0 && <p className="text-soft">None.</p>}
			<ol className="grid gap-1">
				{value.map((v, i) => (
					<li
						key={v}
						draggable
						data-place={i}
						className={`flex items-center gap-1 bg-raised border rounded-md pl-1 ${over === i && dragged !== i ? "border-(--pine)" : "border-line"}`}
						onDragStart={(e) => {
							e.dataTransfer.effectAllowed = "move";
							setDragged(i);
						}}
						onDragOver={(e) => {
							e.preventDefault();
							setOver(i);
						}}
						onDragLeave={() => setOver(-1)}
						onDragEnd={() => setDragged(-1)}
						onDrop={(e) => {
							e.preventDefault();
							const box = e.currentTarget.getBoundingClientRect();
							drop(i, e.clientY > box.top + box.height / 2);
						}}
					>
						<GripVertical size={14} className="text-soft cursor-grab shrink-0" aria-hidden />
						<span className="flex-1 truncate">{name(v)}</span>
						{extra?.(v)}
						<IconButton
							label={`Move ${name(v)} up`}
							disabled={i === 0}
							onClick={() => move(i, i - 1)}
							icon={<ArrowUp size={14} />}
						/>
						<IconButton
							label={`Move ${name(v)} down`}
							disabled={i === value.length - 1}
							onClick={() => move(i, i + 1)}
							icon={<ArrowDown size={14} />}
						/>
						<IconButton
							label={`Remove ${name(v)}`}
							onClick={() => onChange(value.filter((x) => x !== v))}
							icon={<X size={14} />}
						/>
					</li>
				))}
			</ol>
			{free.length > 0 && (
				<select
					aria-label={`Add to: ${label}`}
					className="input"
					value=""
					onChange={(e) => onChange([...value, e.target.value])}
				>
					<option value="">Add…</option>
					{free.map((o) => (
						<option key={o.value} value={o.value}>
							{o.label}
						</option>
					))}
				</select>
			)}
		</div>
	);
}

function IconButton({
	label,
	icon,
	...rest
}: {
	label: string;
	icon: React.ReactNode;
	disabled?: boolean;
	onClick: () => void;
}) {
	return (
		<button type="button" className="p-1.5 disabled:opacity-30" aria-label={label} title={label} {...rest}>
			{icon}
		</button>
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
