import { useMutation, useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { toast } from "sonner";
import { request, withQuery, wordsOf } from "../../shared/api/client";
import { Files } from "../../shared/fields/files";
import { fieldValue, type Row, valueText } from "../../shared/fields/values";
import { say } from "../../shared/words";
import { hrefOf } from "../AddRecord";
import { type AppOut, appUrl, type FieldOut, type Past, useRefresh, type Written } from "../api";
import { ErrorNote, Loading } from "../ui";
import { CellEditor } from "./CellEditor";
import { WhoSees } from "./WhoSees";
import type { GridWrites } from "./writes";

const tabs = { fields: "Fields", past: "History", who: "Who can see it" };

interface PanelProps {
	app: AppOut;
	table: string;
	record: string;
	fields: FieldOut[];
	as: string;
	writes: GridWrites;
	onClose: () => void;
}

/** One record beside the grid: all its fields, what it is linked with, and its past. */
export function RecordPanel({ app, table, record, fields, as, writes, onClose }: PanelProps) {
	const [tab, setTab] = useState<keyof typeof tabs>("fields");
	const got = useQuery({
		queryKey: ["app", app.id, "record", record, as],
		queryFn: () => request<Written>("GET", withQuery(appUrl(app.id, `/tables/${table}/records/${record}`), { as })),
	});
	const row = got.data?.row as Row | undefined;
	return (
		<Dialog.Root open onOpenChange={(o) => !o && onClose()} modal={false}>
			<Dialog.Portal>
				<Dialog.Content
					className="fixed right-0 top-0 bottom-0 z-40 w-[min(28rem,92vw)] bg-surface border-l border-line shadow-lg flex flex-col"
					aria-describedby={undefined}
					onInteractOutside={(e) => e.preventDefault()}
				>
					<div className="flex items-start gap-3 p-4 border-b border-line">
						<Dialog.Title className="font-display text-lg font-semibold flex-1 min-w-0 break-words">
							{String(row?.label ?? "Record")}
						</Dialog.Title>
						<Dialog.Close className="btn">Close</Dialog.Close>
					</div>
					<div className="flex gap-4 px-4 pt-2 border-b border-line" role="tablist">
						{(Object.keys(tabs) as (keyof typeof tabs)[]).map((t) => (
							<button
								key={t}
								type="button"
								role="tab"
								aria-selected={tab === t}
								className={`pb-2 ${tab === t ? "font-semibold border-b-2 border-(--pine)" : "text-soft"}`}
								onClick={() => setTab(t)}
							>
								{tabs[t]}
							</button>
						))}
					</div>
					<div className="flex-1 min-h-0 overflow-auto p-4">
						{got.isError ? (
							<ErrorNote error={got.error} />
						) : !row ? (
							<Loading />
						) : tab === "fields" ? (
							<Fields app={app.id} as={as} row={row} fields={fields} writes={writes} />
						) : tab === "past" ? (
							<PastOf app={app} table={table} row={row} fields={fields} as={as} />
						) : (
							<WhoSees app={app.id} table={table} record={record} />
						)}
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

interface FieldsProps {
	app: string;
	as: string;
	row: Row;
	fields: FieldOut[];
	writes: GridWrites;
}

function Fields({ app, as, row, fields, writes }: FieldsProps) {
	const [editing, setEditing] = useState("");
	return (
		<dl className="grid gap-3">
			{fields.map((f) => (
				<div key={f.id} className="grid gap-0.5">
					<dt className="text-soft">{f.name}</dt>
					<dd className="relative min-h-6 grid gap-1 justify-items-start">
						{f.kind === "file" && <Files row={row} column={f} href={hrefOf(app, row, f, as)} height={110} />}
						{editing === f.id ? (
							<CellEditor
								app={app}
								as={as}
								column={f}
								row={row}
								onSave={(v, from) => {
									setEditing("");
									if (JSON.stringify(v) !== JSON.stringify(fieldValue(from, f))) writes.change(from, f, v);
								}}
								onLeave={() => setEditing("")}
							/>
						) : f.entered ? (
							<button
								type="button"
								className="setting whitespace-pre-wrap break-words"
								aria-label={`Change ${f.name}`}
								onClick={() => setEditing(f.id)}
							>
								{f.kind === "file" && valueText(row, f) ? "Change" : valueText(row, f) || "empty"}
							</button>
						) : (
							<span>{valueText(row, f) || "empty"}</span>
						)}
					</dd>
				</div>
			))}
		</dl>
	);
}

interface PastProps {
	app: AppOut;
	table: string;
	row: Row;
	fields: FieldOut[];
	as: string;
}

function PastOf({ app, table, row, fields, as }: PastProps) {
	const refresh = useRefresh(app.id);
	const url = appUrl(app.id, `/tables/${table}/records/${row.id}`);
	const past = useQuery({
		queryKey: ["app", app.id, "past", row.id, row.revision, as],
		queryFn: () => request<Past>("GET", withQuery(`${url}/history`, { as })),
	});
	const back = useMutation({
		mutationFn: (version: number) =>
			request<Written>("POST", withQuery(`${url}/bring-back`, { as }), { version, revision: row.revision }),
		onSuccess: () => toast.success("Restored. Undo reverses this."),
		onError: (e) => toast.error(wordsOf(e)),
		onSettled: refresh,
	});
	if (past.isError) return <ErrorNote error={past.error} />;
	if (!past.data) return <Loading />;
	return (
		<ol className="grid gap-4">
			{past.data.versions.map((v, i) => {
				const changed = fields.filter((f) => v.after && f.id in v.after && (v.before === null || f.id in v.before));
				return (
					<li key={v.id} className="border-b border-line pb-3 grid gap-1">
						<p>
							<span className="font-medium">{v.madeBy}</span> {v.did} it
							<span className="text-soft"> on {new Date(v.madeAt).toLocaleString()}</span>
						</p>
						{v.before !== null &&
							v.after !== null &&
							changed.map((f) => (
								<p key={f.id} className="text-soft break-words">
									{f.name}: <s>{plainText(v.before, f) || "empty"}</s> → {plainText(v.after, f) || "empty"}
								</p>
							))}
						{as === "founder" && i > 0 && v.after !== null && (
							<button
								type="button"
								className="btn justify-self-start"
								disabled={back.isPending}
								onClick={() => back.mutate(v.id)}
							>
								Restore this version
							</button>
						)}
					</li>
				);
			})}
		</ol>
	);
}

/** A value of the history, in which links stand without their labels. */
function plainText(values: { [key: string]: unknown } | null, f: FieldOut): string {
	const v = values?.[f.id];
	if (f.kind === "file")
		return Array.isArray(v) && v.length
			? say(f.type === "picture" ? "{n} picture||{n} pictures" : "{n} file||{n} files", { n: v.length })
			: "";
	if (f.kind === "record") return v ? (Array.isArray(v) ? `${v.length} linked` : "a linked record") : "";
	return values ? valueText(values, f) : "";
}
