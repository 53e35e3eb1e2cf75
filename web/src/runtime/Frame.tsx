import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Menu, User, X } from "lucide-react";
import { type CSSProperties, type ReactNode, useEffect, useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useLive } from "./live";
import { wear } from "./look";
import { BottomBar, Drawer, SideMenu, TopMenu } from "./Menu";
import { type App, bandHref, onStage, pictureHref, signOut } from "./place";
import { forgetAllUnsent, noticePerson } from "./unsent";

/** What stands around every page: the app's name, its menu, and who is signed in; behind the gate may be a picture. */
export function Frame({ app, gate, children }: { app: App; gate?: boolean; children: ReactNode }) {
	const [open, setOpen] = useState(false);
	useLive();
	const client = useQueryClient();
	const navigate = useNavigate();
	const leave = useMutation({
		mutationFn: signOut,
		onSuccess: () => {
			forgetAllUnsent();
			client.clear();
			navigate("/");
		},
	});
	useEffect(() => wear(app), [app]);
	useMemo(() => noticePerson(app.email ?? ""), [app.email]); // before anything is shown in it
	const side = app.menuAt === "side" && app.menu.length > 1;
	const bar = app.phone === "bar" && app.menu.length > 1;
	return (
		<div className={`min-h-dvh flex flex-col ${side ? "with-side" : ""} ${bar ? "with-bar" : ""}`}>
			<header className="app-header">
				<div className="app-width flex items-center gap-4 py-3">
					<Link to="/" className="app-name">
						{app.logo && <img src={pictureHref(app.logo)} alt="" className="app-logo" />}
						{app.name}
					</Link>
					{!side && <TopMenu key={JSON.stringify(app.menu)} app={app} />}
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
						{app.menu.length > 1 && !bar && (
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
				{open && !bar && <Drawer app={app} onChoose={() => setOpen(false)} />}
			</header>
			{app.locked && (
				<p className="note text-center" role="note">
					View only: changes are off.
				</p>
			)}
			<div
				className={`app-middle ${gate && app.behind ? "gate-picture" : ""}`}
				style={gate && app.behind ? ({ "--picture": `url("${bandHref(app.behind)}")` } as CSSProperties) : undefined}
			>
				{side && <SideMenu app={app} />}
				<main className="app-width flex-1 w-full min-w-0 py-6 md:py-8">{children}</main>
			</div>
			{bar && <BottomBar app={app} />}
		</div>
	);
}
