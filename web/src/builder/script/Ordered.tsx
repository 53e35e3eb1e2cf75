import { ArrowDown, ArrowUp, GripVertical, X } from "lucide-react";
import { type ReactNode, useState } from "react";
import { droppedAt } from "./values";

export type Option = { value: string; label: string };

interface OrderedProps {
	label: string;
	options: Option[];
	value: string[];
	onChange: (v: string[]) => void;
	extra?: (id: string) => ReactNode;
}

/** Some of several options, in an order. */
export function Ordered({ label, options, value, onChange, extra }: OrderedProps) {
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

export function IconButton({
	label,
	icon,
	...rest
}: {
	label: string;
	icon: ReactNode;
	disabled?: boolean;
	onClick: () => void;
}) {
	return (
		<button type="button" className="p-1.5 disabled:opacity-30" aria-label={label} title={label} {...rest}>
			{icon}
		</button>
	);
}
