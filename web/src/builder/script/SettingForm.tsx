import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";
import { request, wordsOf } from "../../shared/api/client";
import { appUrl, type Change, type Revised, type Setting, type Slot, useChange } from "../api";
import { Asked, hasEffects } from "../Effects";
import { ErrorNote, Loading } from "../ui";
import { SlotInput } from "./Slots";
import { changeOf, held, type Values } from "./values";

/** Which setting is meant: one of a thing, or those of a thing that is being added. */
export type AskedOf = { of: string; name: string } | { add: { what: string; into?: string } };

export const getSetting = (app: string, asked: AskedOf, values: Values = {}) =>
	request<Setting>("POST", appUrl(app, "/setting"), { ...asked, values });

export const settingKey = (app: string, asked: AskedOf, values: Values = {}) => ["app", app, "setting", asked, values];

interface SettingFormProps {
	app: string;
	asked: AskedOf;
	/** The place of something that is added. */
	at?: number;
	/** The window that it stands in says the title. */
	untitled?: boolean;
	onDone: (made?: Revised) => void;
}

/** The controls of a setting. What depends on a value that was just chosen comes anew from the server. */
export function SettingForm({ app, asked, at, untitled, onDone }: SettingFormProps) {
	const [sent, setSent] = useState<Values>({});
	const [entered, setEntered] = useState<Values>({});
	const before = useRef<Slot[] | null>(null);
	const setting = useQuery({
		queryKey: settingKey(app, asked, sent),
		queryFn: () => getSetting(app, asked, sent),
		placeholderData: keepPreviousData,
	});
	const change = useChange(app);
	const [wondering, setWondering] = useState<Change | null>(null);
	const ask = useMutation({ mutationFn: (c: Change) => hasEffects(app, c) });
	if (setting.isError && !setting.data) return <ErrorNote error={setting.error} />;
	if (!setting.data) return <Loading />;
	const s = setting.data;
	before.current ??= s.slots;
	// what was chosen stands while the answer to it is on its way
	const now: Values = setting.isPlaceholderData ? { ...sent, ...entered } : entered;
	const enter = (slot: Slot, value: unknown) => {
		if (!slot.renews) return setEntered({ ...entered, [slot.name]: value });
		setSent({ ...sent, ...entered, [slot.name]: value });
		setEntered({});
	};
	const make = (made: Change) => change.mutate([made], { onSuccess: onDone });
	// what a change does besides is known before it is made
	const send = (made: Change) => {
		change.reset();
		ask.reset();
		if (made.kind === "set" && Object.keys(made.values as Values).length === 0) onDone();
		else if (s.asks) ask.mutate(made, { onSuccess: (more) => (more ? setWondering(made) : make(made)) });
		else make(made);
	};
	const submit = (e: FormEvent) => {
		e.preventDefault();
		e.stopPropagation();
		send(changeOf(s, now, before.current ?? [], at));
	};
	const unsay = () =>
		send({ kind: "set", of: s.of, values: Object.fromEntries((s.unsays ?? []).map((name) => [name, null])) });
	const busy = change.isPending || ask.isPending;
	if (wondering)
		return (
			<div className="grid gap-3">
				<h2 className="font-display font-semibold text-base">{s.title}</h2>
				<Asked
					app={app}
					change={wondering}
					label="Save"
					onNo={() => setWondering(null)}
					onYes={(c) => {
						setWondering(null);
						make(c);
					}}
				/>
			</div>
		);
	return (
		<form className="grid gap-3" onSubmit={submit}>
			{!untitled && <h2 className="font-display font-semibold text-base">{s.title}</h2>}
			{s.slots.map((slot, i) => (
				<SlotInput
					key={slot.name}
					app={app}
					slot={slot}
					value={held(slot, now)}
					onChange={(v) => enter(slot, v)}
					autoFocus={i === 0}
				/>
			))}
			{(change.isError || ask.isError) && (
				<p role="alert" className="note-bad">
					{wordsOf(change.error ?? ask.error)}
				</p>
			)}
			<div className="pop-foot flex items-center gap-2">
				{s.unsays && s.unsays.length > 0 && (
					<button type="button" className="link-button mr-auto" onClick={unsay} disabled={busy}>
						Leave unsaid
					</button>
				)}
				<button type="button" className="btn ml-auto" onClick={() => onDone()}>
					Cancel
				</button>
				<button type="submit" className="btn btn-main" disabled={busy || setting.isPlaceholderData}>
					{s.add ? "Add" : "Save"}
				</button>
			</div>
		</form>
	);
}
