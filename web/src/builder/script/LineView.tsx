import { GripVertical, Plus } from "lucide-react";
import {
	type ComponentProps,
	createContext,
	type DragEvent,
	type KeyboardEvent,
	type ReactNode,
	useContext,
	useState,
} from "react";
import type { Line, Part, Revised } from "../api";
import { Actions, useRun } from "./Actions";
import { More } from "./More";
import { SettingPopover } from "./SettingPopover";
import { droppedAt } from "./values";

/** What the lines of a script share. */
export interface ScriptPlace {
	app: string;
	/** The sentences are only read. */
	still: boolean;
	/** The id of the thing that is marked on the stage, too. */
	marked: string;
	onMark: (id: string) => void;
	/** Something was added of a kind. */
	onAdded: (what: string, made: Revised) => void;
}

export const Place = createContext<ScriptPlace>({
	app: "",
	still: true,
	marked: "",
	onMark: () => {},
	onAdded: () => {},
});

export const textOf = (line: Line) => line.parts.map((p) => p.text).join("");

/** What a line's thing is called for those who do not see the line: the setting that it begins with, or its sentence. */
export function nameOf(line: Line): string {
	const first = line.parts[0];
	if (first?.set) return first.text;
	const text = textOf(line);
	return text.length > 60 ? `${text.slice(0, 60)}…` : text;
}

/** A sentence, or an offer to add something. */
export function LineView({ line }: { line: Line }) {
	const { app, still, onAdded } = useContext(Place);
	if (line.kind === "offer") {
		const add = line.add;
		if (still || !add) return null;
		return (
			<SettingPopover app={app} asked={{ add }} label={textOf(line)} onDone={(made) => made && onAdded(add.what, made)}>
				<button
					type="button"
					className="link inline-flex items-center gap-1 py-1 justify-self-start no-underline font-medium"
				>
					<Plus size={14} aria-hidden /> {textOf(line)}
				</button>
			</SettingPopover>
		);
	}
	if (line.kind === "note") return <p className="text-soft py-1 px-1">{textOf(line)}</p>;
	const said = (
		<Movable line={line}>
			<p className="flex-1 leading-relaxed">
				<Parts of={line.of ?? ""} parts={line.parts} />
				{line.more && !still && (
					<>
						{" "}
						<More app={app} of={line.of ?? ""} about={nameOf(line)} />
					</>
				)}
			</p>
			{!still && <Actions app={app} line={line} name={nameOf(line)} />}
		</Movable>
	);
	if (!line.lines?.length) return said;
	return (
		<div className="grid gap-0.5">
			{said}
			<div className="ml-3 pl-3 border-l border-line grid gap-0.5">
				{line.lines.map((l) => (
					<LineView key={l.id} line={l} />
				))}
			</div>
		</div>
	);
}

/** The row of a line. One that has a place among others is dragged by its handle; Alt and the arrows move it, too. */
function Movable({ line, children }: { line: Line; children: ReactNode }) {
	const { app, still, marked, onMark } = useContext(Place);
	const run = useRun(app);
	const [over, setOver] = useState<"above" | "below" | null>(null);
	const at = line.at ?? 0;
	const kind =
		still || !line.group ? undefined : `application/x-pinegate-${line.group.replace(" ", "-").toLowerCase()}`;
	const side = (e: DragEvent<HTMLElement>) => {
		const box = e.currentTarget.getBoundingClientRect();
		return e.clientY < box.top + box.height / 2 ? "above" : "below";
	};
	const move = (of: string | undefined, to: number) => run({ kind: "move", of, to });
	const drop = (e: DragEvent<HTMLElement>) => {
		setOver(null);
		if (!kind || !e.dataTransfer.types.includes(kind)) return;
		e.preventDefault();
		const from = JSON.parse(e.dataTransfer.getData(kind)) as { at: number; of: string };
		const to = droppedAt(from.at, at, side(e) === "below");
		if (to !== from.at) move(from.of, to);
	};
	const keys = (e: KeyboardEvent) => {
		const to = at + (e.key === "ArrowUp" ? -1 : e.key === "ArrowDown" ? 1 : 0);
		if (!kind || !e.altKey || to === at || to < 0 || to >= (line.among ?? 0)) return;
		e.preventDefault();
		move(line.of, to);
	};
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: what is inside is used by keyboard, too
		<div
			className={`flex items-start gap-1 py-0.5 px-1 rounded hover:bg-raised group/line ${marked && line.of === marked ? "line-marked" : ""} ${over === "above" ? "drop-above" : over === "below" ? "drop-below" : ""}`}
			data-line={line.id}
			onClick={() => line.of && onMark(line.of)}
			onKeyDown={keys}
			onDragOver={(e) => {
				if (!kind || !e.dataTransfer.types.includes(kind)) return;
				e.preventDefault();
				setOver(side(e));
			}}
			onDragLeave={() => setOver(null)}
			onDrop={drop}
		>
			{kind && (
				// biome-ignore lint/a11y/noStaticElementInteractions: Alt and the arrows move the line, too
				<span
					draggable
					data-handle
					title="Drag to move, or press Alt and an arrow"
					className="pt-1 -ml-2 text-soft opacity-0 group-hover/line:opacity-100 cursor-grab"
					onDragStart={(e) => {
						e.dataTransfer.effectAllowed = "move";
						e.dataTransfer.setData(kind, JSON.stringify({ at, of: line.of }));
					}}
				>
					<GripVertical size={14} aria-hidden />
				</span>
			)}
			{children}
		</div>
	);
}

/** The words of a sentence, of which those that are underlined are settings. */
export function Parts({ of, parts }: { of: string; parts: Part[] }) {
	const { app, still } = useContext(Place);
	return parts.map((p, i) => {
		const key = `${i} ${p.set ?? ""}`;
		if (!p.set || still) return <span key={key}>{p.text}</span>;
		return (
			<SettingPopover key={key} app={app} asked={{ of, name: p.set }} label={p.text}>
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
