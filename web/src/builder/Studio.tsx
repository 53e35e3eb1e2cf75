import { History, Keyboard, Mail, Moon, Redo2, Sun, Undo2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, NavLink, useNavigate, useParams } from "react-router";
import { useTitle } from "../shared/title";
import { say } from "../shared/words";
import { useAddress } from "./address";
import { type AppOut, type Revised, useApp, useSession, useWalk } from "./api";
import { DataStage } from "./DataStage";
import { HistoryPanel } from "./HistoryPanel";
import { KeysHelp } from "./KeysHelp";
import { useKeys } from "./keys";
import { useLive } from "./live";
import { AppMailbox } from "./Mailbox";
import { MakePages } from "./MakePages";
import { setMode } from "./mode";
import { PagesStage } from "./PagesStage";
import { PeopleStage } from "./PeopleStage";
import { PublishStop } from "./PublishStop";
import { ProposeRules } from "./people/ProposeRules";
import { SeenAs } from "./SeenAs";
import { Script } from "./script/Script";
import { roleOf } from "./seen";
import { ErrorNote, Loading, Wordmark } from "./ui";
import { useFailed, WatchStop } from "./WatchStop";
import { WorkflowsStage } from "./WorkflowsStage";

export const stops = ["data", "people", "pages", "workflows", "publish", "watch"] as const;

const names = {
	data: "Data",
	people: "People",
	pages: "Pages",
	workflows: "Workflows",
	publish: "Publish",
	watch: "Watch",
};
export type Stop = (typeof stops)[number];

/** The place where an app is built: the trail, the script and the stage. */
export function Studio() {
	const params = useParams();
	const app = useApp(params.app ?? "");
	if (app.isError) return <ErrorNote error={app.error} retry={() => void app.refetch()} />;
	if (!app.data) return <Loading />;
	const stop = stops.find((s) => s === params.stop) ?? "data";
	return <Open key={app.data.id} app={app.data} stop={stop} />;
}

function Open({ app, stop }: { app: AppOut; stop: Stop }) {
	const { as, open: asked, set } = useAddress();
	const open = asked ?? firstOf(app, stop);
	const role = roleOf(app, as);
	const [marked, setMarked] = useState("");
	const [proposing, setProposing] = useState("");
	const added = (what: string, made: Revised) => {
		const id = made.added[0];
		if (!id) return;
		if (groups.includes(what)) set({ open: id });
		else setMarked(id);
		if (what === "role") setProposing(id);
	};
	useLive(app.id);
	useTitle(names[stop], app.name, "Pine Gate");
	const heading = useRef<HTMLHeadingElement>(null);
	const before = useRef(stop);
	useEffect(() => {
		if (before.current !== stop) heading.current?.focus(); // another stop begins at its top, for those who hear it, too
		before.current = stop;
	}, [stop]);
	return (
		<div className="h-dvh flex flex-col">
			<TopBar app={app} as={as} onAs={(v) => set({ as: v })} stop={stop} />
			<div className="h-[3px] shrink-0" style={{ background: role ? `var(--role-${role.colour})` : "transparent" }} />
			<Trail app={app} stop={stop} as={as} />
			<h1 ref={heading} tabIndex={-1} className="sr-only">
				{names[stop]}
			</h1>
			{app.member === "viewer" && (
				<p className="px-4 py-1.5 border-b border-line bg-raised" role="note">
					View only: you can see how the app is built, but not change it.
				</p>
			)}
			{proposing && app.roles.some((r) => r.id === proposing && r.people) && (
				<ProposeRules app={app} role={proposing} onClose={() => setProposing("")} />
			)}
			{stop === "publish" ? (
				<PublishStop app={app} />
			) : stop === "watch" ? (
				<WatchStop app={app} />
			) : (
				<div className="flex-1 min-h-0 grid grid-cols-[minmax(20rem,27rem)_1fr]">
					<div className="overflow-auto border-r border-line" id="script">
						{stop === "pages" && app.member !== "viewer" && <MakePages app={app} />}
						<Script
							app={app.id}
							still={app.member === "viewer"}
							stop={stop}
							open={open}
							onOpen={(id) => set({ open: id })}
							marked={marked}
							onMark={setMarked}
							onAdded={added}
						/>
					</div>
					<div className="min-w-0 min-h-0 flex flex-col" id="stage">
						{stop === "data" && <DataStage app={app} table={open} as={as} onTable={(id) => set({ open: id })} />}
						{stop === "people" && <PeopleStage app={app} as={as} onRole={(id) => set({ open: id })} />}
						{stop === "workflows" && <WorkflowsStage app={app} flow={open} as={as} />}
						{stop === "pages" && (
							<PagesStage
								app={app}
								page={open}
								as={as}
								onPage={(id) => set({ open: id })}
								marked={marked}
								onMark={setMarked}
							/>
						)}
					</div>
				</div>
			)}
		</div>
	);
}

/** What has lines of its own in the script, which open when it is added. */
const groups = ["table", "list", "role", "page", "part", "kept", "workflow"];

function firstOf(app: AppOut, stop: Stop): string {
	const list = {
		data: app.tables,
		people: app.roles,
		pages: app.pages,
		workflows: app.workflows,
		publish: [],
		watch: [],
	}[stop];
	return list?.[0]?.id ?? "";
}

interface BarProps {
	app: AppOut;
	as: string;
	onAs: (as: string) => void;
	stop: Stop;
}

function TopBar({ app, as, onAs, stop }: BarProps) {
	const undo = useWalk(app.id, "undo");
	const redo = useWalk(app.id, "redo");
	const session = useSession();
	const [panel, setPanel] = useState<"" | "history" | "mail" | "keys" | "as">("");
	const navigate = useNavigate();
	useKeys({
		undo: () => app.canUndo && !undo.isPending && undo.mutate(),
		redo: () => app.canRedo && !redo.isPending && redo.mutate(),
		keys: () => setPanel("keys"),
		seenAs: () => setPanel("as"),
		walk: (n) => {
			const to = stops[n];
			if (to) navigate(`/apps/${app.id}/${to}${as === "founder" ? "" : `?as=${as}`}`);
		},
	});
	return (
		<header className="bg-deep text-on-deep flex items-center gap-1 px-4 h-12 shrink-0">
			<Link to="/" aria-label="Pine Gate: workshop" className="mr-3">
				<Wordmark />
			</Link>
			<span className="font-medium truncate mr-auto">{app.name}</span>
			{stop !== "publish" && stop !== "watch" && (
				<SeenAs app={app} as={as} onAs={onAs} open={panel === "as"} onOpen={(o) => setPanel(o ? "as" : "")} />
			)}
			{app.member !== "viewer" && (
				<>
					<button
						type="button"
						className="bar-btn"
						disabled={!app.canUndo || undo.isPending}
						onClick={() => undo.mutate()}
						title="Undo (Ctrl+Z)"
					>
						<Undo2 size={15} aria-hidden /> Undo
					</button>
					<button
						type="button"
						className="bar-btn"
						disabled={!app.canRedo || redo.isPending}
						onClick={() => redo.mutate()}
						title="Redo (Ctrl+Shift+Z)"
					>
						<Redo2 size={15} aria-hidden /> Redo
					</button>
				</>
			)}
			<button type="button" className="bar-btn" onClick={() => setPanel("history")}>
				<History size={15} aria-hidden /> Changes
			</button>
			{app.member === "owner" && (
				<button type="button" className="bar-btn" onClick={() => setPanel("mail")}>
					<Mail size={15} aria-hidden /> Mailbox
				</button>
			)}
			<button type="button" className="bar-btn" onClick={() => setPanel("keys")} title="Keys (?)">
				<Keyboard size={15} aria-hidden /> Keys
			</button>
			<ModeButton />
			<span className="opacity-75 ml-2 hidden xl:inline">{session.data?.name}</span>
			{panel === "history" && <HistoryPanel app={app.id} onClose={() => setPanel("")} />}
			{panel === "mail" && <AppMailbox app={app.id} onClose={() => setPanel("")} />}
			{panel === "keys" && <KeysHelp onClose={() => setPanel("")} />}
		</header>
	);
}

/** Turns between the light and the dark look. */
function ModeButton() {
	const [dark, setDark] = useState(() => document.documentElement.dataset.mode === "dark");
	useEffect(() => setMode(dark ? "dark" : "light"), [dark]);
	return (
		<button type="button" className="bar-btn" onClick={() => setDark(!dark)}>
			{dark ? <Sun size={15} aria-hidden /> : <Moon size={15} aria-hidden />} {dark ? "Light" : "Dark"}
		</button>
	);
}

function Trail({ app, stop, as }: { app: AppOut; stop: Stop; as: string }) {
	const failed = useFailed(app);
	const status: Record<Stop, string> = {
		data: say("no tables||{n} table||{n} tables", { n: app.tables?.length ?? 0 }),
		people: say("no roles||{n} role||{n} roles", { n: app.roles?.length ?? 0 }),
		pages: say("no pages||{n} page||{n} pages", { n: app.pages?.length ?? 0 }),
		workflows: say("none yet||{n} workflow||{n} workflows", { n: app.workflows.length }),
		publish:
			app.liveVersion === 0
				? "not live yet"
				: app.unpublished
					? say("{n} change to publish||{n} changes to publish", { n: app.unpublished })
					: `version ${app.liveVersion} is live`,
		watch: say("runs and emails||{n} failed run||{n} failed runs", { n: failed }),
	};
	return (
		<nav aria-label="Trail" className="flex items-stretch px-4 h-11 border-b border-line bg-surface shrink-0">
			{stops.map((s, i) => (
				<span key={s} className="flex items-center">
					{i > 0 && <span className="w-8 border-t border-dashed border-(--edge)" aria-hidden />}
					<NavLink
						to={`/apps/${app.id}/${s}${as === "founder" ? "" : `?as=${as}`}`}
						className={`flex items-baseline gap-2 px-3 py-1.5 rounded-md ${s === stop ? "bg-ground" : ""}`}
						title={`Alt+${i + 1}`}
					>
						<span className="font-display font-semibold text-base">{names[s]}</span>
						<span
							className={
								(s === "publish" && (app.liveVersion === 0 || app.unpublished)) || (s === "watch" && failed > 0)
									? "text-resin font-medium"
									: "text-soft"
							}
						>
							{status[s]}
						</span>
					</NavLink>
				</span>
			))}
		</nav>
	);
}
