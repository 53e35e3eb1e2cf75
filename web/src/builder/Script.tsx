import { useMutation } from "@tanstack/react-query";
import { ChevronDown, ChevronRight, GripVertical, MoreHorizontal, Plus } from "lucide-react";
import { DropdownMenu, Popover } from "radix-ui";
import {
	type ComponentProps,
	createContext,
	type DragEvent,
	type FormEvent,
	type KeyboardEvent,
	type ReactNode,
	useContext,
	useEffect,
	useRef,
	useState,
} from "react";
import { toast } from "sonner";
import { wordsOf } from "../shared/api/client";
import {
	type Action,
	type Change,
	type Line,
	type Part,
	type Script as ScriptData,
	type Setting,
	useChange,
	useOfApp,
} from "./api";
import { AskFirst, hasEffects } from "./Effects";
import { SlotInput } from "./Slots";
import { droppedAt, fill, shows } from "./settings";
import { Confirm, ErrorNote, Loading, Modal } from "./ui";

/** Whether the sentences are only read. */
const Still = createContext(false);

interface ScriptProps {
	app: string;
	/** The sentences are only read. */
	still?: boolean;
	stop: "data" | "people" | "pages";
	/** The id of the table, role or page whose sentences are open. */
	open: string;
	onOpen: (id: string) => void;
}

interface Group {
	id: string;
	head: Line;
	lines: Line[];
}

function group(lines: Line[]): (Group | Line)[] {
	const out: (Group | Line)[] = [];
	let now: Group | undefined;
	for (const l of lines) {
		if (l.kind === "heading") {
			now = { id: l.id, head: l, lines: [] };
			out.push(now);
		} else if (now && l.of && (l.of === now.head.of || l.of === now.id)) now.lines.push(l);
		else out.push(l);
	}
	return out;
}

/** The column of sentences. Underlined words are settings. */
export function Script({ app, still = false, stop, open, onOpen }: ScriptProps) {
	const script = useOfApp<ScriptData>(app, `/script/${stop}`);
	if (script.isError) return <ErrorNote error={script.error} retry={() => void script.refetch()} />;
	if (!script.data) return <Loading />;
	const groups = group(script.data.lines ?? []);
	return (
		<Still.Provider value={still}>
			<div className="p-3 grid gap-1 content-start" data-script>
				{groups.map((g) =>
					"head" in g ? (
						<GroupView
							key={g.id}
							app={app}
							group={g}
							open={g.id === open}
							onOpen={() => onOpen(g.id === open ? "" : g.id)}
						/>
					) : (
						<div key={g.id} className="px-2 py-1">
							<LineView app={app} line={g} />
						</div>
					),
				)}
			</div>
		</Still.Provider>
	);
}

function GroupView({ app, group, open, onOpen }: { app: string; group: Group; open: boolean; onOpen: () => void }) {
	const ref = useRef<HTMLElement>(null);
	useEffect(() => {
		if (open) ref.current?.scrollIntoView({ block: "nearest" });
	}, [open]);
	const title = group.head.parts?.map((p) => p.text).join("") ?? "";
	const count = group.lines.filter((l) => l.kind === "line").length;
	return (
		<section ref={ref} className={open ? "bg-surface border border-line rounded-md my-1" : ""}>
			<h3 className="flex items-center gap-1 px-2 min-h-9">
				<button
					type="button"
					className="p-1 -ml-1"
					aria-expanded={open}
					aria-label={`${open ? "Close" : "Open"} ${title}`}
					onClick={onOpen}
				>
					{open ? <ChevronDown size={15} /> : <ChevronRight size={15} />}
				</button>
				{open ? (
					<span className="font-display font-semibold text-base flex-1">
						<Parts app={app} parts={group.head.parts ?? []} />
					</span>
				) : (
					<button type="button" className="flex-1 text-left font-medium" onClick={onOpen} tabIndex={-1}>
						{title}
					</button>
				)}
				{!open && <span className="text-soft">{count}</span>}
				{open && <Actions app={app} actions={group.head.actions ?? []} of={title} />}
			</h3>
			{open && (
				<div className="px-2 pb-2 grid gap-0.5">
					{group.lines.map((l) => (
						<LineView key={l.id} app={app} line={l} />
					))}
				</div>
			)}
		</section>
	);
}

function LineView({ app, line }: { app: string; line: Line }) {
	const still = useContext(Still);
	if (line.kind === "offer" && still) return null;
	if (line.kind === "offer") {
		const part = line.parts?.[0];
		return part?.setting ? (
			<SettingPopover app={app} setting={part.setting}>
				<button
					type="button"
					className="link inline-flex items-center gap-1 py-1 justify-self-start no-underline font-medium"
				>
					<Plus size={14} aria-hidden /> {part.text}
				</button>
			</SettingPopover>
		) : null;
	}
	return (
		<Movable app={app} line={line}>
			<p className="flex-1 leading-relaxed">
				<Parts app={app} parts={line.parts ?? []} />
			</p>
			<Actions app={app} actions={line.actions ?? []} of={line.parts?.[0]?.text ?? ""} />
		</Movable>
	);
}

/** The row of a line. One that has a place among others is dragged by its handle; its menu moves it, too. */
function Movable({ app, line, children }: { app: string; line: Line; children: ReactNode }) {
	const change = useChange(app);
	const [over, setOver] = useState<"above" | "below" | null>(null);
	const still = useContext(Still);
	const move = still ? undefined : line.move;
	const kind = move && `application/x-pinegate-${move.group.toLowerCase()}`;
	const side = (e: DragEvent<HTMLElement>) => {
		const box = e.currentTarget.getBoundingClientRect();
		return e.clientY < box.top + box.height / 2 ? "above" : "below";
	};
	const drop = (e: DragEvent<HTMLElement>) => {
		setOver(null);
		if (!move || !kind || !e.dataTransfer.types.includes(kind)) return;
		e.preventDefault();
		const from = JSON.parse(e.dataTransfer.getData(kind)) as { at: number; change: Change };
		const to = droppedAt(from.at, move.at, side(e) === "below");
		if (to !== from.at)
			change.mutate([{ ...from.change, to }], { onError: (err) => toast.error(wordsOf(err), { duration: 10_000 }) });
	};
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the menu of the line moves it by keyboard
		<div
			className={`flex items-start gap-1 py-0.5 px-1 rounded hover:bg-raised group/line ${over === "above" ? "drop-above" : over === "below" ? "drop-below" : ""}`}
			data-line={line.id}
			onDragOver={(e) => {
				if (!kind || !e.dataTransfer.types.includes(kind)) return;
				e.preventDefault();
				setOver(side(e));
			}}
			onDragLeave={() => setOver(null)}
			onDrop={drop}
		>
			{move && kind && (
				// biome-ignore lint/a11y/noStaticElementInteractions: the menu of the line moves it by keyboard
				<span
					draggable
					data-handle
					title="Drag to another place"
					className="pt-1 -ml-2 text-soft opacity-0 group-hover/line:opacity-100 cursor-grab"
					onDragStart={(e) => {
						e.dataTransfer.effectAllowed = "move";
						e.dataTransfer.setData(kind, JSON.stringify({ at: move.at, change: move.change }));
					}}
				>
					<GripVertical size={14} aria-hidden />
				</span>
			)}
			{children}
		</div>
	);
}

function Parts({ app, parts }: { app: string; parts: Part[] }) {
	const still = useContext(Still);
	return parts.map((p, i) => {
		const key = `${i} ${p.ref ?? ""}`;
		if (!p.setting || still) return <span key={key}>{p.text}</span>;
		return (
			<SettingPopover key={key} app={app} setting={p.setting}>
				<SettingWords text={p.text} />
			</SettingPopover>
		);
	});
}

/** Underlined words. They are no button element, because that would not break across lines as words do. */
function SettingWords({ text, ...trigger }: { text: string } & ComponentProps<"span">) {
	const press = (e: KeyboardEvent<HTMLSpanElement>) => {
		if (e.key !== "Enter" && e.key !== " ") return;
		e.preventDefault();
		e.currentTarget.click();
	};
	return (
		// biome-ignore lint/a11y/useSemanticElements: see above
		<span {...trigger} role="button" tabIndex={0} className="setting" onKeyDown={press}>
			{text}
		</span>
	);
}

function SettingPopover({ app, setting, children }: { app: string; setting: Setting; children: React.ReactNode }) {
	const [open, setOpen] = useState(false);
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger asChild>{children}</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content className="pop" align="start" sideOffset={4} collisionPadding={12} aria-label={setting.title}>
					<SettingForm app={app} setting={setting} onDone={() => setOpen(false)} />
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

interface SettingFormProps {
	app: string;
	setting: Setting;
	/** The window that it stands in says the title. */
	untitled?: boolean;
	onDone: () => void;
}

function SettingForm({ app, setting, untitled, onDone }: SettingFormProps) {
	const slots = setting.slots ?? [];
	const [values, setValues] = useState<Record<string, unknown>>(() =>
		Object.fromEntries(slots.map((s) => [s.name, s.value])),
	);
	const change = useChange(app);
	const [asked, setAsked] = useState<Change | null>(null);
	const ask = useMutation({ mutationFn: (c: Change) => hasEffects(app, c) });
	const submit = async (e: FormEvent) => {
		e.preventDefault();
		const made = fill(setting.change as Change, slots, values);
		change.reset();
		if (setting.asks && (await ask.mutateAsync(made).catch(() => false))) setAsked(made);
		else change.mutate([made], { onSuccess: onDone });
	};
	return (
		<form className="grid gap-3" onSubmit={submit}>
			{!untitled && <p className="font-display font-semibold text-base">{setting.title}</p>}
			{slots
				.filter((s) => shows(s, values))
				.map((s, i) => (
					<SlotInput
						key={s.name}
						app={app}
						slot={s}
						value={values[s.name]}
						values={values}
						onChange={(v) => setValues({ ...values, [s.name]: v })}
						autoFocus={i === 0}
					/>
				))}
			{change.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(change.error)}
				</p>
			)}
			{asked && (
				<AskFirst
					app={app}
					change={asked}
					title={setting.title}
					label="Change it"
					onNo={() => setAsked(null)}
					onYes={(c) => {
						setAsked(null);
						change.mutate([c], { onSuccess: onDone });
					}}
				/>
			)}
			<div className="flex justify-end gap-2">
				<button type="button" className="btn" onClick={onDone}>
					Cancel
				</button>
				<button type="submit" className="btn btn-main" disabled={change.isPending || ask.isPending}>
					Save
				</button>
			</div>
		</form>
	);
}

/** What can be done with what a line speaks of. */
function Actions({ app, actions, of }: { app: string; actions: Action[]; of: string }) {
	const [asked, setAsked] = useState<Action | null>(null);
	const [filling, setFilling] = useState<Setting | null>(null);
	const change = useChange(app);
	const run = (c: Change) => change.mutate([c], { onError: (e) => toast.error(wordsOf(e), { duration: 10_000 }) });
	const still = useContext(Still);
	if (actions.length === 0 || still) return null;
	return (
		<>
			<DropdownMenu.Root>
				<DropdownMenu.Trigger className="p-1 text-soft hover:text-ink rounded" aria-label={`More about ${of}`}>
					<MoreHorizontal size={15} />
				</DropdownMenu.Trigger>
				<DropdownMenu.Portal>
					<DropdownMenu.Content className="pop !w-auto !p-1" align="end">
						{actions.map((a) => (
							<DropdownMenu.Item
								key={a.label}
								className={`px-3 py-1.5 rounded cursor-pointer data-highlighted:bg-ground outline-none ${a.confirm ? "text-berry" : ""}`}
								onSelect={() => (a.setting ? setFilling(a.setting) : a.confirm ? setAsked(a) : run(a.change as Change))}
							>
								{a.label}
							</DropdownMenu.Item>
						))}
					</DropdownMenu.Content>
				</DropdownMenu.Portal>
			</DropdownMenu.Root>
			{filling && (
				<Modal title={filling.title} open onClose={() => setFilling(null)}>
					<SettingForm app={app} setting={filling} untitled onDone={() => setFilling(null)} />
				</Modal>
			)}
			{asked && !asked.asks && (
				<Confirm
					text={asked.confirm ?? ""}
					label={asked.label}
					onNo={() => setAsked(null)}
					onYes={() => {
						run(asked.change as Change);
						setAsked(null);
					}}
				/>
			)}
			{asked?.asks && (
				<AskFirst
					app={app}
					change={asked.change as Change}
					title={`${asked.label}: ${of}`}
					label={asked.label}
					text={asked.confirm}
					onNo={() => setAsked(null)}
					onYes={(c) => {
						run(c);
						setAsked(null);
					}}
				/>
			)}
		</>
	);
}
