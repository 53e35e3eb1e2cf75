import { ExternalLink, Monitor, Smartphone, Tablet } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import type { StageMessage } from "../runtime/stage";
import { wordsOf } from "../shared/api/client";
import { type AppOut, type Change, type Grid, useChange, useDiscard, useOfApp } from "./api";
import { LiveLook } from "./people/LiveLook";
import { PageReasons } from "./people/PageReasons";
import { SettingForm } from "./script/SettingForm";
import { Empty, Loading, Modal } from "./ui";

const widths = [
	{ name: "Full", width: "100%", icon: Monitor },
	{ name: "Tablet", width: "768px", icon: Tablet },
	{ name: "Phone", width: "390px", icon: Smartphone },
] as const;

interface PagesStageProps {
	app: AppOut;
	page: string;
	as: string;
	onPage: (id: string) => void;
	/** The block that is marked in the script, too. */
	marked: string;
	onMark: (id: string) => void;
}

/** The running draft, as the one as whom it is seen gets it. */
export function PagesStage({ app, page, as, onPage, marked, onMark }: PagesStageProps) {
	const [width, setWidth] = useState<(typeof widths)[number]>(widths[0]);
	const [beside, setBeside] = useState<"" | "why" | "live">("");
	const shown = app.pages?.find((p) => p.id === page) ?? app.pages?.[0];
	const rows = useOfApp<Grid>(app.id, `/tables/${shown?.record}/records`, { as }, Boolean(shown?.record));
	const [adding, setAdding] = useState<{ into: string; at: number } | null>(null);
	const frame = useFrame({ app, as, marked, onPage, onMark, onAdd: setAdding });
	// the page that the running app says it shows is not loaded a second time
	const path = !shown
		? null
		: !shown.record
			? shown.path
			: rows.data?.rows?.[0]
				? `${shown.path}/${rows.data.rows[0].id}`
				: null;
	const src = `/stage/${app.id}/${as}/`;
	const wanted = shown && frame.at.current === shown.id && frame.base.current === src ? null : path;
	const [address, setAddress] = useState("");
	useEffect(() => {
		if (wanted !== null) {
			frame.base.current = src;
			frame.at.current = shown?.id ?? "";
			setAddress(src + wanted);
		}
	}, [wanted, src, shown?.id, frame]);
	if (!shown)
		return (
			<Empty title="No pages yet">
				<p>Add a page on the left, say who can open it, and put blocks on it. You see it running here.</p>
			</Empty>
		);
	return (
		<>
			<div className="flex items-center gap-1 px-3 h-11 border-b border-line shrink-0">
				{widths.map((w) => (
					<button
						key={w.name}
						type="button"
						className={`px-2 py-1 rounded-md inline-flex items-center gap-1.5 ${w === width ? "bg-surface font-semibold" : "text-soft"}`}
						aria-pressed={w === width}
						onClick={() => setWidth(w)}
					>
						<w.icon size={15} aria-hidden /> {w.name}
					</button>
				))}
				<span className="text-soft ml-3 truncate">
					{beside === "live" ? "The live app" : "Click a block to find its sentence. Drag it to move it."}
				</span>
				<button
					type="button"
					className={`ml-auto px-2 py-1 rounded-md ${beside === "why" ? "bg-surface font-semibold" : "text-soft"}`}
					aria-pressed={beside === "why"}
					onClick={() => setBeside(beside === "why" ? "" : "why")}
				>
					Why?
				</button>
				{app.member !== "viewer" && (
					<button
						type="button"
						className={`px-2 py-1 rounded-md ${beside === "live" ? "bg-surface font-semibold" : "text-soft"}`}
						aria-pressed={beside === "live"}
						onClick={() => setBeside(beside === "live" ? "" : "live")}
					>
						Live
					</button>
				)}
				<Discard app={app} />
				<a
					className="link inline-flex items-center gap-1 whitespace-nowrap"
					href={address || src}
					target="_blank"
					rel="noreferrer"
				>
					Own window <ExternalLink size={14} aria-hidden />
				</a>
			</div>
			{adding !== null && (
				<Modal title={`Add a block to ${shown.name}`} open onClose={() => setAdding(null)}>
					<SettingForm
						app={app.id}
						asked={{ add: { what: "block", into: adding.into } }}
						at={adding.at}
						untitled
						onDone={(made) => {
							setAdding(null);
							if (made?.added[0]) onMark(made.added[0]);
						}}
					/>
				</Modal>
			)}
			{beside === "live" && <LiveLook app={app} page={shown.id} />}
			{beside === "why" && (
				<div className="max-h-[45%] overflow-auto border-b border-line p-4 shrink-0">
					<PageReasons app={app} as={as} page={shown.id} />
				</div>
			)}
			{beside !== "live" && path === null && shown.record && !frame.at.current && rows.isPending && <Loading />}
			{beside === "live" ? null : path === null &&
				shown.record &&
				rows.data &&
				rows.data.rows?.length === 0 &&
				frame.at.current !== shown.id ? (
				<Empty title={`No record to show on ${shown.name}`}>
					<p>This page shows one record. {rows.data.sees}</p>
				</Empty>
			) : (
				<div className="flex-1 min-h-0 overflow-auto p-3">
					{address && (
						<iframe
							ref={frame.ref}
							key={address}
							src={address}
							title="The running app"
							className="bg-white border border-line rounded-md h-full mx-auto block"
							style={{ width: width.width, maxWidth: "100%" }}
						/>
					)}
				</div>
			)}
		</>
	);
}

/** Gives up what one changed since one came here. */
function Discard({ app }: { app: AppOut }) {
	const [since, setSince] = useState(app.newest);
	const [asking, setAsking] = useState(false);
	const discard = useDiscard(app.id);
	if (app.member === "viewer" || app.newest <= since) return null;
	return (
		<>
			<button type="button" className="px-2 py-1 rounded-md text-soft" onClick={() => setAsking(true)}>
				Discard
			</button>
			<Modal title="Discard your changes?" open={asking} onClose={() => setAsking(false)}>
				<p>
					This takes back what you changed since you opened this stop, the newest first. <b>Redo</b> brings it back.
				</p>
				<p className="flex gap-2 mt-4">
					<button
						type="button"
						className="btn btn-danger"
						disabled={discard.isPending}
						onClick={() => discard.mutate(since, { onSettled: () => setAsking(false) })}
					>
						Discard
					</button>
					<button
						type="button"
						className="btn"
						onClick={() => {
							setSince(app.newest);
							setAsking(false);
						}}
					>
						Keep them
					</button>
				</p>
			</Modal>
		</>
	);
}

interface FrameUse {
	app: AppOut;
	as: string;
	marked: string;
	onPage: (id: string) => void;
	onMark: (block: string) => void;
	onAdd: (place: { into: string; at: number }) => void;
}

/** Listens to the running app, and tells it when something changed. */
function useFrame(use: FrameUse) {
	const { app, as, marked } = use;
	const ref = useRef<HTMLIFrameElement>(null);
	const at = useRef("");
	const base = useRef("");
	const change = useChange(app.id);
	const now = useRef({ ...use, change });
	now.current = { ...use, change };
	useEffect(() => {
		const run = (c: Change) =>
			now.current.app.member !== "viewer" &&
			now.current.change.mutate([c], { onError: (err) => toast.error(wordsOf(err), { duration: 10_000 }) });
		const listen = (e: MessageEvent<StageMessage>) => {
			if (e.origin !== location.origin || e.source !== ref.current?.contentWindow) return;
			switch (e.data.type) {
				case "pinegate:at":
					at.current = e.data.page;
					now.current.onPage(e.data.page);
					break;
				case "pinegate:block":
					if (e.data.page) now.current.onPage(e.data.page);
					now.current.onMark(e.data.block);
					break;
				case "pinegate:text":
					run({ kind: "set", of: e.data.block, values: { text: e.data.text } });
					break;
				case "pinegate:move":
					run({ kind: "move", of: e.data.block, to: e.data.to, into: e.data.into });
					break;
				case "pinegate:remove":
					run({ kind: "remove", of: e.data.block });
					break;
				case "pinegate:set":
					run({ kind: "set", of: e.data.block, values: e.data.values });
					break;
				case "pinegate:add":
					if (now.current.app.member !== "viewer") now.current.onAdd({ into: e.data.into, at: e.data.at });
					break;
			}
		};
		window.addEventListener("message", listen);
		return () => window.removeEventListener("message", listen);
	}, []);
	const tell = (message: StageMessage) => ref.current?.contentWindow?.postMessage(message, location.origin);
	// biome-ignore lint/correctness/useExhaustiveDependencies: every revision is worth a refresh
	useEffect(() => {
		tell({ type: "pinegate:refresh" });
	}, [app.revision, as]);
	// biome-ignore lint/correctness/useExhaustiveDependencies: the frame is the same
	useEffect(() => {
		tell({ type: "pinegate:mark", block: marked });
	}, [marked]);
	return useRef({ ref, at, base }).current;
}
