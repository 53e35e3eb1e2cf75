import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Pencil } from "lucide-react";
import { type KeyboardEvent, lazy, Suspense, useRef, useState } from "react";
import { Problem, wordsOf } from "../../../shared/api/client";
import { ChoiceText } from "../../../shared/fields/choice";
import { Files } from "../../../shared/fields/files";
import { ValueInput } from "../../../shared/fields/input";
import { type Column, fieldValue, type Row, type Value, valueText } from "../../../shared/fields/values";
import { changeRow, fileHref, pictureHref, type Where } from "../../place";
import "./cell.css";

interface CellProps {
	row: Row;
	column: Column;
	/** It stands for the record. */
	plain?: boolean;
}

const Measure = lazy(() => import("../Measure"));

/** A value as it is read. */
export function Cell({ row, column, plain }: CellProps) {
	if ((column.show === "rating" || column.show === "bar") && typeof row[column.id] === "string")
		return (
			<Suspense fallback={valueText(row, column)}>
				<Measure value={Number(row[column.id])} column={column} />
			</Suspense>
		);
	if (column.kind === "file")
		return <Files row={row} column={column} href={fileHref(row, column)} height={36} plain={plain} />;
	return <ChoiceText row={row} column={column} text={valueText(row, column)} picture={pictureHref} />;
}

interface EditProps extends CellProps {
	block: string;
	where: Where;
}

/**
 * A value that is changed where it stands. Enter saves, Escape gives up. Where somebody was faster, both values are shown
 * and one of them is chosen.
 */
export function EditCell({ row, column, block, where }: EditProps) {
	const [editing, setEditing] = useState(false);
	const [value, setValue] = useState<Value>(null);
	const client = useQueryClient();
	const box = useRef<HTMLDivElement>(null);
	const save = useMutation({
		mutationFn: (v: Value) => changeRow(block, where, row, { [column.id]: v }),
		onSuccess: async () => {
			await client.invalidateQueries();
			setEditing(false);
		},
		onError: (e) => {
			if (e instanceof Problem && e.status === 409) void client.invalidateQueries(); // to show what it is now
		},
	});
	const begin = () => {
		save.reset();
		setValue(fieldValue(row, column));
		setEditing(true);
	};
	const finish = (v: Value) => {
		if (JSON.stringify(v) === JSON.stringify(fieldValue(row, column))) setEditing(false);
		else save.mutate(v);
	};
	const keys = (e: KeyboardEvent) => {
		if (e.key === "Escape") setEditing(false);
		else if (e.key === "Enter" && !(e.target instanceof HTMLTextAreaElement)) finish(value);
		else return;
		e.preventDefault();
		e.stopPropagation();
	};
	const text = valueText(row, column);
	if (!editing)
		return (
			<button
				type="button"
				className="cell-edit"
				aria-label={`Change ${column.name}: ${text || "empty"}`}
				onClick={(e) => {
					e.stopPropagation();
					begin();
				}}
			>
				{text ? <Cell row={row} column={column} /> : <span className="text-soft">–</span>}
				<Pencil size={13} aria-hidden />
			</button>
		);
	const conflict = save.error instanceof Problem && save.error.status === 409;
	const mistake = save.error instanceof Problem ? save.error.mistakes[0]?.message : undefined;
	const id = `${block}-${row.id}-${column.id}`;
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: Enter and Escape are for what is inside
		<div
			ref={box}
			className="cell-editor"
			onKeyDown={keys}
			onClick={(e) => e.stopPropagation()}
			onMouseDown={(e) => e.stopPropagation()}
			onTouchStart={(e) => e.stopPropagation()}
		>
			<label className="sr-only" htmlFor={id}>
				{column.name}
			</label>
			<ValueInput
				id={id}
				column={column}
				value={value}
				autoFocus
				invalid={save.isError}
				onChange={(v) => {
					setValue(v);
					if (column.kind === "choice" && !column.many) finish(v);
				}}
			/>
			{conflict ? (
				<div role="alert" className="cell-conflict">
					<p>
						Someone else changed this record. Here it is now <b>{text || "empty"}</b>.
					</p>
					<p className="flex gap-2 mt-1">
						<button type="button" className="button" onClick={() => setEditing(false)}>
							Keep theirs
						</button>
						<button type="button" className="button button-main" onClick={() => save.mutate(value)}>
							Save mine
						</button>
					</p>
				</div>
			) : (
				<p className="flex gap-2 mt-1 items-center">
					<button type="button" className="button button-main" disabled={save.isPending} onClick={() => finish(value)}>
						Save
					</button>
					<button type="button" className="text-link" onClick={() => setEditing(false)}>
						Cancel
					</button>
				</p>
			)}
			{save.isError && !conflict && (
				<p role="alert" className="text-berry text-sm">
					{mistake ?? wordsOf(save.error)}
				</p>
			)}
		</div>
	);
}
