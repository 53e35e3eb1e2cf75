import { useState } from "react";
import { wordsOf } from "../../shared/api/client";
import { say } from "../../shared/words";
import { type AppOut, type Change, type RuleProposal, useChange, useOfApp } from "../api";
import { ErrorNote, Loading, Modal } from "../ui";

/** Offers rules for a role, each in a sentence, to be taken in part or whole. */
export function ProposeRules({ app, role, onClose }: { app: AppOut; role: string; onClose: () => void }) {
	const offered = useOfApp<RuleProposal>(app.id, "/proposal", { role });
	const [chosen, setChosen] = useState<Record<string, boolean>>({});
	const change = useChange(app.id);
	const rules = offered.data?.rules ?? [];
	// letting people add records is for the founder to choose
	const on = (r: (typeof rules)[number]) => chosen[r.text] ?? !r.adds;
	const taken = rules.filter(on);
	return (
		<Modal title={`Rules for ${app.roles.find((r) => r.id === role)?.name}`} open onClose={onClose} wide>
			{offered.isError ? (
				<ErrorNote error={offered.error} />
			) : !offered.data ? (
				<Loading />
			) : rules.length === 0 ? (
				<p className="text-soft">No rules to propose: no other table links to the people in this role.</p>
			) : (
				<div className="grid gap-4">
					<p className="text-soft">
						A role starts without access. Seeing what is theirs usually fits; choose what they can add.
					</p>
					<ul className="grid gap-2">
						{rules.map((r) => (
							<li key={r.text}>
								<label className="flex gap-2 items-start">
									<input
										type="checkbox"
										className="size-4 mt-1 accent-(--pine)"
										checked={on(r)}
										onChange={(e) => setChosen({ ...chosen, [r.text]: e.target.checked })}
									/>
									<span>{r.text}.</span>
								</label>
							</li>
						))}
					</ul>
					{change.isError && (
						<p role="alert" className="note-bad">
							{wordsOf(change.error)}
						</p>
					)}
					<div className="flex justify-end gap-2">
						<button type="button" className="btn" onClick={onClose}>
							Cancel
						</button>
						<button
							type="button"
							className="btn btn-main"
							disabled={taken.length === 0 || change.isPending}
							onClick={() =>
								change.mutate(
									taken.flatMap((r) => r.changes as Change[]),
									{ onSuccess: onClose },
								)
							}
						>
							{say("Add rules||Add {n} rule||Add {n} rules", { n: taken.length })}
						</button>
					</div>
				</div>
			)}
		</Modal>
	);
}
