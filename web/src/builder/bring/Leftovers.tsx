import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { request, wordsOf } from "../../shared/api/client";
import { say } from "../../shared/words";
import { type Aside, appUrl, type Leftovers as List, useOfApp, useRefresh } from "../api";
import { Confirm, ErrorNote, Loading, Modal, moment } from "../ui";

/** The imports of an app with rows that are kept aside. */
export const useLeftovers = (app: string) => useOfApp<List>(app, "/leftovers").data?.imports ?? [];

/** Rows that could not be read, to be mended and brought again. */
export function Leftovers({ app, onClose }: { app: string; onClose: () => void }) {
	const list = useLeftovers(app);
	const [chosen, setChosen] = useState("");
	const shown = list.find((l) => l.import === chosen) ?? list[0];
	return (
		<Modal title="Rows to fix" open wide onClose={onClose}>
			{list.length > 1 && (
				<label className="flex items-center gap-2 mb-3">
					Import
					<select className="input !w-auto" value={shown?.import ?? ""} onChange={(e) => setChosen(e.target.value)}>
						{list.map((l) => (
							<option key={l.import} value={l.import}>
								{say("{at} by {by}, {n} row||{at} by {by}, {n} rows", { at: moment(l.at), by: l.by, n: l.rows })}
							</option>
						))}
					</select>
				</label>
			)}
			{shown ? (
				<Rows key={shown.import} app={app} id={shown.import} />
			) : (
				<p>No rows to fix: all were imported or discarded.</p>
			)}
			<div className="flex justify-end mt-4">
				<button type="button" className="btn" onClick={onClose}>
					Close
				</button>
			</div>
		</Modal>
	);
}

function Rows({ app, id }: { app: string; id: string }) {
	const url = appUrl(app, `/leftovers/${id}`);
	const refresh = useRefresh(app);
	const got = useOfApp<Aside>(app, `/leftovers/${id}`);
	const [cells, setCells] = useState<Record<number, string[]>>({});
	const [said, setSaid] = useState("");
	const [forgetting, setForgetting] = useState(false);
	const retry = useMutation({
		mutationFn: () =>
			request<{ done: number }>("POST", `${url}/retry`, {
				rows: got.data?.rows.map((r) => ({ id: r.id, cells: cells[r.id] ?? r.cells })),
			}),
		onSuccess: async (r) => {
			await refresh();
			setCells({});
			setSaid(
				r.done === 0
					? "No row fits yet. See what is wrong beside each."
					: say("Imported {n} row.||Imported {n} rows.", { n: r.done }),
			);
		},
	});
	const drop = useMutation({
		mutationFn: () => request<void>("POST", `${url}/drop`, { rows: got.data?.rows.map((r) => r.id) }),
		onSuccess: refresh,
	});
	if (got.isError) return <ErrorNote error={got.error} />;
	if (!got.data) return <Loading />;
	const { sheets, rows } = got.data;
	const error = retry.error ?? drop.error;
	return (
		<div className="grid gap-3">
			<p className="text-soft">
				Fix the marked values and try again. Rows that fit are imported; the others stay here.{" "}
				<a className="link" href={appUrl(app, `/imports/${id}/aside`)}>
					Download as CSV
				</a>
			</p>
			<div className="overflow-auto max-h-[52vh] grid gap-4">
				{sheets.map((sheet, i) => {
					const own = rows.filter((r) => r.sheet === i);
					if (own.length === 0) return null;
					return (
						<table key={sheet.name} className="text-left">
							<caption className="text-left font-display font-semibold pb-1">{sheet.name}</caption>
							<thead>
								<tr className="border-b border-line">
									<th className="pr-3 py-1 font-semibold">Row</th>
									<th className="pr-3 py-1 font-semibold min-w-48">Problem</th>
									{sheet.headers.map(
										(h, j) =>
											sheet.used[j] && (
												<th key={h} className="pr-3 py-1 font-semibold">
													{h}
												</th>
											),
									)}
								</tr>
							</thead>
							<tbody>
								{own.map((r) => (
									<tr key={r.id} className="border-b border-line align-top">
										<td className="pr-3 py-1.5 tabular-nums">{r.row}</td>
										<td className="pr-3 py-1.5 text-berry">{r.reason}</td>
										{sheet.headers.map(
											(h, j) =>
												sheet.used[j] && (
													<td key={h} className="pr-2 py-1">
														<input
															className="input !w-40"
															aria-label={`${h} of row ${r.row}`}
															value={(cells[r.id] ?? r.cells)[j] ?? ""}
															onChange={(e) => {
																const next = [...(cells[r.id] ?? r.cells)];
																next[j] = e.target.value;
																setCells({ ...cells, [r.id]: next });
															}}
														/>
													</td>
												),
										)}
									</tr>
								))}
							</tbody>
						</table>
					);
				})}
			</div>
			{said && <p role="status">{said}</p>}
			{error && (
				<p role="alert" className="note-bad">
					{wordsOf(error)}
				</p>
			)}
			<div className="flex gap-2">
				<button type="button" className="btn btn-main" disabled={retry.isPending} onClick={() => retry.mutate()}>
					Try again
				</button>
				<button type="button" className="btn text-berry" onClick={() => setForgetting(true)}>
					Discard rows
				</button>
			</div>
			{forgetting && (
				<Confirm
					text={say(
						"This discards {n} row that was not imported. You can’t undo this.||This discards {n} rows that were not imported. You can’t undo this.",
						{ n: rows.length },
					)}
					label="Discard rows"
					onNo={() => setForgetting(false)}
					onYes={() => {
						setForgetting(false);
						drop.mutate();
					}}
				/>
			)}
		</div>
	);
}
