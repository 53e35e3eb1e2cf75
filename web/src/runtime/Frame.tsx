import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Menu, User, X } from "lucide-react";
import { type ReactNode, useEffect, useState } from "react";
import { Link, NavLink, useNavigate } from "react-router";
import { useLive } from "./live";
import { type App, onStage, signOut } from "./place";

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
	useEffect(() => {
		document.documentElement.dataset.theme = app.theme;
	}, [app.theme]);
	return (
		<div className="min-h-dvh flex flex-col">
			<header className="app-header">
				<div className="app-width flex items-center gap-4 py-3">
					<Link to="/" className="app-name">
						{app.name}
					</Link>
					<nav className="hidden md:flex flex-1 flex-wrap gap-x-1" aria-label="Menu">
						<MenuLinks app={app} />
					</nav>
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

function MenuLinks({ app }: { app: App }) {
	return app.menu.map((m) => (
		<NavLink key={m.path} to={`/${m.path}`} className="menu-link">
			{m.name}
		</NavLink>
	));
}
