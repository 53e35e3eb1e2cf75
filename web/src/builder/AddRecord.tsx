import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { Problem, request, withQuery, wordsOf } from "../shared/api/client";
import { type FileInfo, sendFile } from "../shared/fields/files";
import { ValueInput } from "../shared/fields/input";
import type { Row, Value } from "../shared/fields/values";
import { appUrl, type FieldOut, type OptionList, useRefresh, type Written } from "./api";
import { Modal } from "./ui";

interface AddRecordProps {
	app: string;
	table: string;
	/** What one record of the table is called, with its article. */
	word: string;
	fields: FieldOut[];
	as: string;
	onClose: () => void;
}

/** Searches the records that a link can point to, as the one as whom the app is seen. */
export const searchLinks = (app: string, target: string, as: string) => async (words: string) =>
	(await request<OptionList>("GET", withQuery(appUrl(app, `/tables/${target}/options`), { as, search: words })))
		.options ?? [];

/** Adds a record by name to link to, where its table asks for no more than that. */
export const addLinked = (app: string, target: string, as: string) => async (name: string) => {
	const api = appUrl(app, `/tables/${target}/named`);
	try {
		const made = await request<Written>("POST", withQuery(api, { as }), { name });
		return { id: String(made.row.id), label: String(made.row.label ?? name) };
	} catch (e) {
		toast.error(wordsOf(e));
		return null;
	}
};

/** Sends a file for a field, as the one as whom the app is seen. */
export const sendTo = (app: string, column: FieldOut, as: string) => (file: File, progress: (part: number) => void) =>
	sendFile(withQuery(appUrl(app, `/tables/${column.table}/fields/${column.id}/files`), { as }), file, progress);

/** The address of a file that a record holds. */
export const hrefOf = (app: string, row: Row, column: FieldOut, as: string) => (file: FileInfo, small: boolean) =>
	withQuery(appUrl(app, `/tables/${column.table}/records/${row.id}/files/${column.id}/${file.id}`), { as, small });

/** Asks for the fields of a new record. */
export function AddRecord({ app, table, word, fields, as, onClose }: AddRecordProps) {
	const [values, setValues] = useState<Record<string, Value>>({});
	const refresh = useRefresh(app);
	const add = useMutation({
		mutationFn: () => request<Written>("POST", withQuery(appUrl(app, `/tables/${table}/records`), { as }), { values }),
		onSuccess: async () => {
			await refresh();
			onClose();
		},
	});
	const wrong = Object.fromEntries(
		(add.error instanceof Problem ? add.error.mistakes : []).map((m) => [m.location, m.message]),
	);
	const submit = (e: FormEvent) => {
		e.preventDefault();
		add.mutate();
	};
	return (
		<Modal title={`Add ${word}`} open onClose={onClose}>
			<form className="grid gap-3" onSubmit={submit} noValidate>
				{fields
					.filter((f) => f.entered)
					.map((f, i) => (
						<div key={f.id} className="grid gap-1">
							<label className="font-medium" htmlFor={`new-${f.id}`}>
								{f.name}
								{!f.required && <span className="text-soft font-normal"> (optional)</span>}
							</label>
							<ValueInput
								id={`new-${f.id}`}
								column={f}
								value={values[f.id] ?? null}
								required={f.required}
								invalid={Boolean(wrong[f.id])}
								autoFocus={i === 0}
								onChange={(v) => setValues({ ...values, [f.id]: v })}
								search={f.target ? searchLinks(app, f.target, as) : undefined}
								send={sendTo(app, f, as)}
								onNew={f.target ? addLinked(app, f.target, as) : undefined}
							/>
							{wrong[f.id] && <p className="text-berry">{wrong[f.id]}</p>}
						</div>
					))}
				{add.isError && (
					<p role="alert" className="note-bad">
						{wordsOf(add.error)}
					</p>
				)}
				<div className="flex justify-end gap-2">
					<button type="button" className="btn" onClick={onClose}>
						Cancel
					</button>
					<button type="submit" className="btn btn-main" disabled={add.isPending}>
						Add
					</button>
				</div>
			</form>
		</Modal>
	);
}
