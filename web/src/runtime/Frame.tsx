import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ChevronDown, Menu, User, X } from "lucide-react";
import { type ReactNode, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Link, NavLink, useLocation, useNavigate } from "react-router";
import { useAway } from "./away";
import { useLive } from "./live";
import { wear } from "./look";
import { type App, onStage, pictureHref, signOut } from "./place";

/** What stands around every page: the app's name, its menu, and who is signed in. */
export function Frame({ app, children }: { app: App; children: ReactNode }) {
	const [open, setOpen] = useState(false);
	useLive();
	const client = useQueryClient();
	const navigate = useNavigate();
	const leave = useMutation({
		mutationFn: signOut,
		onSuccess: () => {
			client.clear();
			navigate("/");
		},
	});
	useEffect(() => wear(app), [app]);
	return (
		<div className="min-h-dvh flex flex-col">
			<header className="app-header">
				<div className="app-width flex items-center gap-4 py-3">
					<Link to="/" className="app-name">
						{app.logo && <img src={pictureHref(app.logo)} alt="" className="app-logo" />}
						{app.name}
					</Link>
					<TopMenu key={JSON.stringify(app.menu)} app={app} />
					<div className="ml-auto flex items-center gap-3">
						{app.signedIn &&
							(onStage ? (
								<span className="hidden sm:inline text-sm opacity-85">{app.person}</span>
							) : (
								<Link to="/~/me" className="menu-link inline-flex items-center gap-1" title="Your profile">
									<User size={16} aria-hidden />
									<span className="max-sm:sr-only">{app.person}</span>
								</Link>
							))}
						{!onStage && app.signedIn && (
							<button type="button" className="header-button" onClick={() => leave.mutate()} disabled={leave.isPending}>
								Sign out
							</button>
						)}
						{!onStage && !app.signedIn && app.canSignUp && (
							<Link className="menu-link max-sm:hidden" to="/~/sign-up">
								Sign up
							</Link>
						)}
						{!onStage && !app.signedIn && app.canSignIn && (
							<Link className="header-button" to="/~/sign-in">
								Sign in
							</Link>
						)}
						{app.menu.length > 1 && (
							<button
								type="button"
								className="header-button md:hidden inline-flex items-center gap-1"
								aria-expanded={open}
								onClick={() => setOpen(!open)}
							>
								{open ? <X size={16} aria-hidden /> : <Menu size={16} aria-hidden />} Menu
							</button>
						)}
					</div>
				</div>
				{open && (
					<nav className="app-width md:hidden grid pb-3" aria-label="Menu" onClickCapture={() => setOpen(false)}>
						<MenuLinks app={app} />
					</nav>
				)}
			</header>
			{app.locked && (
				<p className="note text-center" role="note">
					View only: changes are off.
				</p>
			)}
			<main className="app-width flex-1 w-full py-6 md:py-8">{children}</main>
		</div>
	);
}

/** The menu in one row. What does not fit goes behind More. */
function TopMenu({ app }: { app: App }) {
	const row = useRef<HTMLUListElement>(null);
	const [fit, setFit] = useState(app.menu.length);
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
	const rest = app.menu.slice(fit);
	return (
		<nav className="hidden md:flex flex-1 min-w-0 items-center" aria-label="Menu">
			<ul ref={row} className="menu-row">
				{app.menu.map((m, i) => (
					<li key={m.path} className={i < fit ? "" : "invisible"}>
						<NavLink to={`/${m.path}`} className="menu-link">
							{m.name}
						</NavLink>
					</li>
				))}
			</ul>
			{rest.length > 0 && <More menu={rest} />}
		</nav>
	);
}

/** What of the menu did not fit. */
function More({ menu }: { menu: App["menu"] }) {
	const [open, setOpen] = useState(false);
	const box = useRef<HTMLDivElement>(null);
	const location = useLocation();
	const here = menu.some((m) => location.pathname.split("/")[1] === m.path);
	useAway(open, box, () => setOpen(false));
	return (
		<div ref={box} className="relative">
			<button
				type="button"
				className={`menu-link inline-flex items-center gap-1 ${here ? "active" : ""}`}
				aria-expanded={open}
				onClick={() => setOpen(!open)}
			>
				More <ChevronDown size={15} aria-hidden />
			</button>
			{open && (
				<div className="menu-more" onClickCapture={() => setOpen(false)}>
					{menu.map((m) => (
						<NavLink key={m.path} to={`/${m.path}`} className="menu-link">
							{m.name}
						</NavLink>
					))}
				</div>
			)}
		</div>
	);
}

function MenuLinks({ app }: { app: App }) {
	return app.menu.map((m) => (
		<NavLink key={m.path} to={`/${m.path}`} className="menu-link">
			{m.name}
		</NavLink>
	));
}
