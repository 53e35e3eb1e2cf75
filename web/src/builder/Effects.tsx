import { useQuery } from "@tanstack/react-query";
import { request } from "../shared/api/client";
import { say } from "../shared/words";
import { appUrl, type Change, type Effects } from "./api";
import { ErrorNote, Loading, Modal } from "./ui";

const getEffects = (app: string, change: Change) => request<Effects>("POST", appUrl(app, "/effects"), { change });

/** Whether a change does something besides what it says. */
export async function hasEffects(app: string, change: Change): Promise<boolean> {
	const e = await getEffects(app, change);
	return e.mends.length > 0 || e.losses.length > 0 || e.openings.length > 0;
}

interface AskProps {
	app: string;
	change: Change;
	label: string;
	/** What is asked where nothing else is affected. */
	text?: string;
	onYes: (change: Change) => void;
	onNo: () => void;
}

/** Asks in a window of its own whether to make a change. */
export function AskFirst(p: AskProps & { title: string }) {
	return (
		<Modal title={p.title} open onClose={p.onNo}>
			<Asked {...p} />
		</Modal>
	);
}

/** Tells what a change would do besides what it says, and asks whether to make it. */
export function Asked({ app, change, label, text, onYes, onNo }: AskProps) {
	const effects = useQuery({
		queryKey: ["app", app, "effects", JSON.stringify(change)],
		queryFn: () => getEffects(app, change),
	});
	const mends = effects.data?.mends ?? [];
	const losses = effects.data?.losses ?? [];
	const openings = effects.data?.openings ?? [];
	const yes = mends.length > 0 ? `${label} and change these` : label;
	return (
		<div className="grid gap-5">
			{effects.isError ? (
				<ErrorNote error={effects.error} />
			) : !effects.data ? (
				<Loading />
			) : (
				<div className="grid gap-4">
					{text && <p>{text}</p>}
					{openings.map((o) => (
						<p key={o} className="note-care">
							{o}
						</p>
					))}
					{losses.length > 0 && (
						<ul className="grid gap-2">
							{losses.map((l) => (
								<li key={l.text} className="note-care">
									{l.text}
									{l.samples && l.samples.length > 0 && (
										<span className="block text-soft">
											{say("For example: {values}", { values: l.samples.map((s) => `“${s}”`) })}
										</span>
									)}
								</li>
							))}
						</ul>
					)}
					{mends.length > 0 && (
						<div className="grid gap-2">
							<p className="font-medium">
								{say("{n} place uses it, and will change:||{n} places use it, and will change:", { n: mends.length })}
							</p>
							<ul className="grid gap-1 max-h-72 overflow-auto border border-line rounded-md p-3">
								{mends.map((m) => (
									<li key={m.use + m.does}>
										<span className="font-medium">{m.use[0]?.toUpperCase() + m.use.slice(1)}</span>: {m.does}.
									</li>
								))}
							</ul>
						</div>
					)}
				</div>
			)}
			<div className="flex justify-end gap-2">
				<button type="button" className="btn" onClick={onNo}>
					Cancel
				</button>
				<button
					type="button"
					className="btn btn-danger"
					disabled={!effects.data}
					onClick={() => onYes(mends.length > 0 ? { ...change, mend: true } : change)}
				>
					{yes}
				</button>
			</div>
		</div>
	);
}
