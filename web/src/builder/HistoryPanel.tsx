import { type ActivityOut, useOfApp } from "./api";
import { ErrorNote, Loading, Modal, moment } from "./ui";

/** What was done to the draft, newest first. */
export function HistoryPanel({ app, onClose }: { app: string; onClose: () => void }) {
	const list = useOfApp<ActivityOut[]>(app, "/history");
	return (
		<Modal title="Changes in the draft" open onClose={onClose} wide>
			{list.isError && <ErrorNote error={list.error} />}
			{list.isPending && <Loading />}
			<ol className="grid gap-1">
				{list.data?.map((a) => (
					<li key={a.id} className="flex gap-4 py-1.5 border-b border-line">
						<span className={`flex-1 ${a.undone ? "line-through text-soft" : ""}`}>
							{a.sentences?.map((s) => (
								<span key={s} className="block">
									{s}.
								</span>
							))}
						</span>
						<span className="text-soft text-right max-w-[45%]">
							{a.undone && "undone, "}
							{a.by}, {moment(a.at)}
						</span>
					</li>
				))}
			</ol>
		</Modal>
	);
}
