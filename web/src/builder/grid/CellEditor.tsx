import { type KeyboardEvent, useRef, useState } from "react";
import { filesOf } from "../../shared/fields/files";
import { ValueInput } from "../../shared/fields/input";
import { fieldValue, linkedRecords, type Row, type Value } from "../../shared/fields/values";
import { addLinked, searchLinks, sendTo } from "../AddRecord";
import type { FieldOut } from "../api";

interface EditorProps {
	app: string;
	as: string;
	column: FieldOut;
	row: Row;
	start?: string;
	/** The row is that from which the value was edited: an older one where somebody changed it meanwhile. */
	onSave: (v: Value, from: Row, then?: "down" | "right") => void;
	onLeave: () => void;
}

const typedInto = ["text", "long text", "rich text", "number", "money", "duration", "e-mail", "phone", "web address"];

/** Edits one cell: Enter keeps and goes down, Tab keeps and goes right, Esc leaves it as it was. */
export function CellEditor({ app, as, column, row, start, onSave, onLeave }: EditorProps) {
	const typed = start !== undefined && typedInto.includes(column.type);
	const [value, setValue] = useState<Value>(typed ? start : fieldValue(row, column));
	const label = row[`${column.id}~`];
	const atOnce =
		column.type === "choice" || column.type === "yes/no" || column.type === "link" || column.kind === "file";
	const filed = column.kind === "file";
	const several = column.type === "several choices" || column.type === "links" || filed;
	const wide = several || ["link", "long text", "rich text", "time stamp"].includes(column.type);
	const [was] = useState(row);
	const same = JSON.stringify(fieldValue(was, column)) === JSON.stringify(fieldValue(row, column));
	const from = same ? row : was;
	const box = useRef<HTMLDivElement>(null);
	// leaving the editor takes the focus from it, which must not save a second time
	const done = useRef(false);
	const finish = (how: () => void) => {
		if (done.current) return;
		done.current = true;
		how();
	};
	const keys = (e: KeyboardEvent) => {
		e.stopPropagation();
		if (e.key === "Escape") finish(onLeave);
		else if (e.key === "Tab" && !several) {
			e.preventDefault();
			finish(() => onSave(value, from, "right"));
		} else if (
			e.key === "Enter" &&
			!(wide && e.shiftKey) &&
			column.type !== "link" &&
			column.type !== "links" &&
			!(e.target instanceof HTMLButtonElement)
		) {
			e.preventDefault();
			finish(() => onSave(value, from, "down"));
		}
	};
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: keys of the control inside
		<div
			ref={box}
			className={`leading-normal ${wide ? "absolute z-20 bg-surface border border-line rounded-md p-1 w-72 whitespace-normal" : ""}`}
			onKeyDown={keys}
			onBlur={(e) => {
				// the window in which files are chosen takes the focus, too
				if (!filed && !box.current?.contains(e.relatedTarget)) finish(() => onSave(value, from));
			}}
		>
			<ValueInput
				id={`cell-${column.id}`}
				column={column}
				value={value}
				autoFocus
				label={typeof label === "string" ? label : ""}
				linked={column.type === "links" ? linkedRecords(row, column) : undefined}
				files={filesOf(row, column)}
				send={sendTo(app, column, as)}
				search={column.target ? searchLinks(app, column.target, as) : undefined}
				onNew={column.target ? addLinked(app, column.target, as) : undefined}
				onChange={(v) => {
					setValue(v);
					if (atOnce) finish(() => onSave(v, from));
				}}
			/>
		</div>
	);
}
