import { MoreHorizontal } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { toast } from "sonner";
import { wordsOf } from "../../shared/api/client";
import { type Change, type Line, type MergeList, useChange, useOfApp } from "../api";
import { AskFirst } from "../Effects";
import { Loading, Modal } from "../ui";

/** Makes changes of lines, and tells what went wrong. */
export function useRun(app: string) {
	const change = useChange(app);
	return (c: Change) => change.mutate([c], { onError: (e) => toast.error(wordsOf(e), { duration: 10_000 }) });
}

/** What can be done with the thing that a line tells. */
export function Actions({ app, line, name }: { app: string; line: Line; name: string }) {
	const [doing, setDoing] = useState<"" | "remove" | "merge">("");
	const run = useRun(app);
	const at = line.at ?? 0;
	const among = line.among ?? 0;
	const move = (to: number) => run({ kind: "move", of: line.of, to });
	if (!line.removes && !line.group) return null;
	return (
		<>
			<DropdownMenu.Root>
				<DropdownMenu.Trigger className="p-1 text-soft hover:text-ink rounded" aria-label={`More about ${name}`}>
					<MoreHorizontal size={15} />
				</DropdownMenu.Trigger>
				<DropdownMenu.Portal>
					<DropdownMenu.Content className="pop !w-auto !p-1" align="end">
						{line.group && at > 0 && <Item label="Move up" onSelect={() => move(at - 1)} />}
						{line.group && at < among - 1 && <Item label="Move down" onSelect={() => move(at + 1)} />}
						{line.merges && <Item label="Merge into another choice" onSelect={() => setDoing("merge")} />}
						{line.removes && <Item label="Remove" bad onSelect={() => setDoing("remove")} />}
					</DropdownMenu.Content>
				</DropdownMenu.Portal>
			</DropdownMenu.Root>
			{doing === "remove" && (
				<AskFirst
					app={app}
					change={{ kind: "remove", of: line.of }}
					title={`Remove ${name}?`}
					label="Remove"
					text="Undo brings it back."
					onNo={() => setDoing("")}
					onYes={(c) => {
						run(c);
						setDoing("");
					}}
				/>
			)}
			{doing === "merge" && <Merge app={app} of={line.of ?? ""} name={name} onDone={() => setDoing("")} />}
		</>
	);
}

function Item({ label, bad, onSelect }: { label: string; bad?: boolean; onSelect: () => void }) {
	return (
		<DropdownMenu.Item
			className={`px-3 py-1.5 rounded cursor-pointer data-highlighted:bg-ground outline-none ${bad ? "text-berry" : ""}`}
			onSelect={onSelect}
		>
			{label}
		</DropdownMenu.Item>
	);
}

/** Gives the records that have a choice another one. */
function Merge({ app, of, name, onDone }: { app: string; of: string; name: string; onDone: () => void }) {
	const list = useOfApp<MergeList>(app, "/merges", { of });
	const [into, setInto] = useState("");
	const run = useRun(app);
	return (
		<Modal title={`Merge ${name}`} open onClose={onDone}>
			{!list.data ? (
				<Loading />
			) : (
				<form
					className="grid gap-4"
					onSubmit={(e) => {
						e.preventDefault();
						run({ kind: "merge", of, into });
						onDone();
					}}
				>
					<label className="grid gap-1">
						<span>
							Records that have {name} get this choice instead, and {name} is removed from the list.
						</span>
						<select className="input" value={into} onChange={(e) => setInto(e.target.value)}>
							<option value="">Choose</option>
							{list.data.choices.map((c) => (
								<option key={c.value} value={c.value}>
									{c.label}
								</option>
							))}
						</select>
					</label>
					<div className="flex justify-end gap-2">
						<button type="button" className="btn" onClick={onDone}>
							Cancel
						</button>
						<button type="submit" className="btn btn-danger" disabled={!into}>
							Merge
						</button>
					</div>
				</form>
			)}
		</Modal>
	);
}
