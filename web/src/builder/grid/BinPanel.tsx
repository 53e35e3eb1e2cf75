import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { request, wordsOf } from "../../shared/api/client";
import { say } from "../../shared/words";
import { appUrl, type Bin, type BulkOut, useOfApp, useRefresh } from "../api";
import { Confirm, ErrorNote, Loading, Modal } from "../ui";

/** The deleted records of a table, which can be brought back with their links. */
export function BinPanel({
	app,
	table,
	name,
	onClose,
}: {
	app: string;
	table: string;
	name: string;
	onClose: () => void;
}) {
	const bin = useOfApp<Bin>(app, `/tables/${table}/bin`);
	const refresh = useRefresh(app);
	const [emptying, setEmptying] = useState(false);
	const restore = useMutation({
		mutationFn: (id: string) => request("POST", appUrl(app, `/tables/${table}/records/${id}/restore`)),
		onSuccess: () => toast.success("The record and its links are restored."),
		onError: (e) => toast.error(wordsOf(e)),
		onSettled: refresh,
	});
	const empty = useMutation({
		mutationFn: () => request<BulkOut>("DELETE", appUrl(app, `/tables/${table}/bin`)),
		onSuccess: (got) =>
			toast.success(say("{n} record was deleted permanently.||{n} records were deleted permanently.", { n: got.done })),
		onError: (e) => toast.error(wordsOf(e)),
		onSettled: refresh,
	});
	return (
		<Modal title={`Bin of ${name}`} open onClose={onClose}>
			{bin.isError ? (
				<ErrorNote error={bin.error} />
			) : !bin.data ? (
				<Loading />
			) : bin.data.rows.length === 0 ? (
				<p className="text-soft">The bin is empty. Deleted records come here. You can restore them with their links.</p>
			) : (
				<>
					<ul className="grid max-h-[50vh] overflow-auto">
						{bin.data.rows.map((r) => (
							<li key={String(r.id)} className="flex items-center gap-3 border-b border-line py-1.5">
								<span className="flex-1 truncate">{String(r.label ?? "(no name)")}</span>
								<button
									type="button"
									className="btn"
									disabled={restore.isPending}
									onClick={() => restore.mutate(String(r.id))}
								>
									Restore
								</button>
							</li>
						))}
					</ul>
					<div className="flex justify-between items-center mt-3">
						<span className="text-soft">{bin.data.more ? "There are more." : ""}</span>
						<button type="button" className="btn text-berry" onClick={() => setEmptying(true)}>
							Empty bin
						</button>
					</div>
				</>
			)}
			{emptying && (
				<Confirm
					text={`This deletes all records in the bin of ${name} permanently. You can’t undo this.`}
					label="Delete permanently"
					onNo={() => setEmptying(false)}
					onYes={() => {
						empty.mutate();
						setEmptying(false);
					}}
				/>
			)}
		</Modal>
	);
}
