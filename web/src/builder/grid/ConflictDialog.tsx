import { valueText } from "../../shared/fields/values";
import { Modal } from "../ui";
import type { Conflict, GridWrites } from "./writes";

interface ConflictProps {
	conflict: Conflict;
	writes: GridWrites;
	onClose: () => void;
}

/** Shows both values where two people changed the same record, and lets one be chosen. */
export function ConflictDialog({ conflict, writes, onClose }: ConflictProps) {
	const { column, mine, was, now } = conflict;
	const before = valueText(was, column);
	const theirs = valueText(now, column);
	const own = Array.isArray(mine)
		? `${mine.length} chosen`
		: valueText({ [column.id]: mine, [`${column.id}~`]: "what you chose" }, column);
	return (
		<Modal title="Someone changed this record first" open onClose={onClose}>
			<p className="text-soft mb-3">
				Nothing was overwritten. {theirs === before ? `${column.name} is the same. Something else changed.` : ""}
			</p>
			<dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
				<dt className="text-soft">{column.name} was</dt>
				<dd>{before || "empty"}</dd>
				<dt className="text-soft">It is now</dt>
				<dd className="font-medium">{theirs || "empty"}</dd>
				<dt className="text-soft">You entered</dt>
				<dd className="font-medium">{own || "nothing"}</dd>
			</dl>
			<div className="flex justify-end gap-2 mt-4">
				<button type="button" className="btn" onClick={onClose}>
					Keep theirs
				</button>
				<button
					type="button"
					className="btn btn-main"
					onClick={() => {
						writes.change(now, column, mine, was);
						onClose();
					}}
				>
					Use mine
				</button>
			</div>
		</Modal>
	);
}
