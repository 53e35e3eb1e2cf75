import { Menu as Bars, ChevronDown } from "lucide-react";
import { Fragment, lazy, Suspense, useLayoutEffect, useRef, useState } from "react";
import { NavLink, useLocation } from "react-router";
import { useAway } from "./away";
import type { App } from "./place";

const Icon = lazy(() => import("./icons"));

type Item = App["menu"][number];
/** Entries of a menu that stand under the same words, "" for those that stand by themselves. */
interface Under {
	words: string;
	items: Item[];
}

/** Parts a menu by the words under which entries stand, in the order in which these are met. */
export function grouped(menu: Item[]): Under[] {
	const out: Under[] = [];
	for (const item of menu) {
		const words = item.group ?? "";
		const under = words ? out.find((u) => u.words === words) : undefined;
		if (under) under.items.push(item);
		else out.push({ words, items: [item] });
	}
	return out;
}

/** An icon of the menu. Its room is there before it is, so that nothing moves. */
function Picture({ name, size = 17 }: { name?: string; size?: number }) {
	if (!name) return null;
	return (
		<span className="menu-icon" style={{ width: size, height: size }}>
			<Suspense fallback={null}>
				<Icon name={name} size={size} />
			</Suspense>
		</span>
	);
}

function Entry({ item }: { item: Item }) {
	return (
		<NavLink to={`/${item.path}`} className="menu-link">
			<Picture name={item.icon} />
			{item.name}
		</NavLink>
	);
}

/** The menu in one row, with groups that open. What does not fit goes behind More. */
export function TopMenu({ app }: { app: App }) {
	const all = grouped(app.menu);
	const row = useRef<HTMLUListElement>(null);
	const [fit, setFit] = useState(all.length);
	useLayoutEffect(() => {
		const list = row.current;
		if (!list) return;
		const measure = () => {
			const top = list.firstElementChild?.getBoundingClientRect().top ?? 0;
			setFit([...list.children].filter((c) => c.getBoundingClientRect().top < top + 4).length);
		};
		measure();
		if (typeof ResizeObserver === "undefined") return;
		const watch = new ResizeObserver(measure);
		watch.observe(list);
		return () => watch.disconnect();
	}, []);
	return (
		<nav className="hidden md:flex flex-1 min-w-0 items-center" aria-label="Menu">
			<ul ref={row} className="menu-row">
				{all.map((u, i) => (
					<li key={u.words || u.items[0]?.path} className={i < fit ? "" : "invisible"}>
						{u.words ? (
							<Opens words={u.words} under={[{ words: "", items: u.items }]} />
						) : (
							<Entry item={u.items[0] as Item} />
						)}
					</li>
				))}
			</ul>
			{fit < all.length && <Opens words="More" under={all.slice(fit)} />}
		</nav>
	);
}

/** A button of the menu that opens entries below it. */
function Opens({ words, under }: { words: string; under: Under[] }) {
	const [open, setOpen] = useState(false);
	const box = useRef<HTMLDivElement>(null);
	const path = useLocation().pathname.split("/")[1];
	const here = under.some((u) => u.items.some((m) => m.path === path));
	const button = useRef<HTMLButtonElement>(null);
	const at = open ? button.current?.getBoundingClientRect() : undefined;
	useAway(open, box, () => setOpen(false));
	return (
		<div ref={box} className="relative">
			<button
				ref={button}
				type="button"
				className={`menu-link ${here ? "active" : ""}`}
				aria-expanded={open}
				onClick={() => setOpen(!open)}
			>
				{words} <ChevronDown size={15} aria-hidden />
			</button>
			{open && at && (
				<div
					className="menu-more"
					style={{ top: at.bottom + 6, left: Math.min(at.left, window.innerWidth - 260) }}
					onClickCapture={() => setOpen(false)}
				>
					<Entries under={under} />
				</div>
			)}
		</div>
	);
}

/** All entries one under the other, with the words under which they stand. */
function Entries({ under }: { under: Under[] }) {
	return under.map((u) => (
		<Fragment key={u.words || u.items[0]?.path}>
			{u.words && <p className="menu-words">{u.words}</p>}
			{u.items.map((m) => (
				<Entry key={m.path} item={m} />
			))}
		</Fragment>
	));
}

/** The menu at the side of the page. */
export function SideMenu({ app }: { app: App }) {
	return (
		<nav className="side-menu" aria-label="Menu">
			<Entries under={grouped(app.menu)} />
		</nav>
	);
}

/** The whole menu on a phone, in a drawer below the head of the page. */
export function Drawer({ app, onChoose }: { app: App; onChoose: () => void }) {
	return (
		<nav className="app-width md:hidden grid pb-3" aria-label="Menu" onClickCapture={onChoose}>
			<Entries under={grouped(app.menu)} />
		</nav>
	);
}

const mostInBar = 5;

/** The first entries in a bar at the bottom of a phone; the others are behind its last button. */
export function BottomBar({ app }: { app: App }) {
	const [open, setOpen] = useState(false);
	const box = useRef<HTMLElement>(null);
	useAway(open, box, () => setOpen(false));
	const all = app.menu.length <= mostInBar;
	const first = all ? app.menu : app.menu.slice(0, mostInBar - 1);
	return (
		<nav ref={box} className="bottom-bar" aria-label="Menu">
			{open && (
				<div className="bottom-rest" onClickCapture={() => setOpen(false)}>
					<Entries under={grouped(app.menu.slice(first.length))} />
				</div>
			)}
			{first.map((m) => (
				<NavLink key={m.path} to={`/${m.path}`} className="bottom-link">
					<Picture name={m.icon ?? "list"} size={20} />
					<span>{m.name}</span>
				</NavLink>
			))}
			{!all && (
				<button type="button" className="bottom-link" aria-expanded={open} onClick={() => setOpen(!open)}>
					<Bars size={20} aria-hidden />
					<span>More</span>
				</button>
			)}
		</nav>
	);
}
