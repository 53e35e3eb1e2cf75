import { useMutation } from "@tanstack/react-query";
import { Check } from "lucide-react";
import { type FormEvent, useState } from "react";
import { request, wordsOf } from "../../shared/api/client";
import { appUrl, useRefresh, type ViewOut, type ViewSettings } from "../api";
import { Confirm } from "../ui";
import type { ViewState } from "./view";

interface PickerProps {
	app: string;
	table: string;
	/** What the records are called. */
	name: string;
	state: ViewState;
}

interface Kept {
	name: string;
	shared: boolean;
	settings: ViewSettings;
}

/** Chooses among the views that were kept, and keeps what one looks at now. */
export function ViewPicker({ app, table, name, state }: PickerProps) {
	const refresh = useRefresh(app);
	const [removing, setRemoving] = useState(false);
	const save = useMutation({
		mutationFn: (v: Kept & { id?: string }) => {
			const { id, ...body } = v;
			return id
				? request<ViewOut>("PUT", appUrl(app, `/views/${id}`), body)
				: request<ViewOut>("POST", appUrl(app, `/tables/${table}/views`), body);
		},
		onSuccess: async (v) => {
			await refresh();
			state.choose(v);
		},
	});
	const remove = useMutation({
		mutationFn: (id: string) => request<void>("DELETE", appUrl(app, `/views/${id}`)),
		onSuccess: () => state.choose(undefined),
		onSettled: refresh,
	});
	const { view } = state;
	const error = save.error ?? remove.error;
	return (
		<div className="grid gap-3">
			<Choices name={name} state={state} />
			{view && state.changed && (
				<div className="flex flex-wrap gap-2">
					<button
						type="button"
						className="btn btn-main"
						onClick={() => save.mutate({ ...view, settings: state.settings })}
					>
						Save changes
					</button>
					<button type="button" className="btn" onClick={state.revert}>
						Discard changes
					</button>
				</div>
			)}
			<NewView settings={state.settings} onSave={save.mutate} busy={save.isPending} />
			{view && (
				<div className="flex flex-wrap gap-2 border-t border-line pt-3">
					<button type="button" className="btn" onClick={() => save.mutate({ ...view, shared: !view.shared })}>
						{view.shared ? `Copy “${view.name}” for me` : `Share “${view.name}”`}
					</button>
					<button type="button" className="btn text-berry" onClick={() => setRemoving(true)}>
						Delete view
					</button>
				</div>
			)}
			{error && (
				<p role="alert" className="note-bad">
					{wordsOf(error)}
				</p>
			)}
			{removing && view && (
				<Confirm
					text={
						view.shared
							? `This deletes the view “${view.name}” for everyone. Records stay as they are.`
							: `This deletes the view “${view.name}”. Records stay as they are.`
					}
					label="Delete"
					onNo={() => setRemoving(false)}
					onYes={() => {
						setRemoving(false);
						remove.mutate(view.id);
					}}
				/>
			)}
		</div>
	);
}

function Choices({ name, state }: { name: string; state: ViewState }) {
	const row = (v: ViewOut | undefined) => (
		<li key={v?.id ?? ""}>
			<button
				type="button"
				className="w-full flex items-center gap-2 text-left px-2 py-1 rounded hover:bg-ground"
				aria-pressed={state.view?.id === v?.id}
				onClick={() => state.choose(v)}
			>
				<Check size={14} className={state.view?.id === v?.id ? "" : "invisible"} aria-hidden />
				<span className="flex-1 truncate">{v?.name ?? `All ${name}`}</span>
				{v && <span className="text-soft">{v.shared ? "shared" : "mine"}</span>}
			</button>
		</li>
	);
	return <ul className="grid max-h-64 overflow-auto">{[undefined, ...state.views].map(row)}</ul>;
}

function NewView({ settings, busy, onSave }: { settings: ViewSettings; busy: boolean; onSave: (v: Kept) => void }) {
	const [name, setName] = useState("");
	const [shared, setShared] = useState(false);
	const submit = (e: FormEvent) => {
		e.preventDefault();
		onSave({ name, shared, settings });
	};
	return (
		<form className="grid gap-2 border-t border-line pt-3" onSubmit={submit}>
			<p className="font-display font-semibold text-base">Save this as a view</p>
			<label className="grid gap-1">
				Name of the view
				<input className="input" value={name} maxLength={60} onChange={(e) => setName(e.target.value)} />
			</label>
			<label className="flex items-center gap-2">
				<input
					type="checkbox"
					className="accent-(--pine)"
					checked={shared}
					onChange={(e) => setShared(e.target.checked)}
				/>
				For everyone who builds this app
			</label>
			<button type="submit" className="btn justify-self-end" disabled={!name.trim() || busy}>
				Save view
			</button>
		</form>
	);
}
