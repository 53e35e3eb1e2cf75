import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef } from "react";
import { Link, useLocation, useNavigationType, useParams, useSearchParams } from "react-router";
import { Problem, wordsOf } from "../shared/api/client";
import { useTitle } from "../shared/title";
import { viewOf } from "./asks";
import { BlockList } from "./blocks";
import { Frame } from "./Frame";
import { SignInForm } from "./gate";
import { type Block, getApp, getPage, onStage, type Page, type Where } from "./place";
import { onRefresh, tellWhere } from "./stage";
import { saidAt } from "./thanks";

/** The blocks on the stage, where they can be chosen, moved and removed. */
const StageBlocks = lazy(() => import("./StageBlocks"));

/** A page that a row opened beside this one. */
const Beside = lazy(() => import("./Beside"));

/** A page of the app, with everything on it. */
export function PageView() {
	const params = useParams();
	const where: Where = { path: params.path ?? "", record: params.record ?? "" };
	const client = useQueryClient();
	const location = useLocation();
	const [search] = useSearchParams();
	const view = viewOf(search, where.path);
	const page = useQuery({
		queryKey: ["page", where, view],
		queryFn: () => getPage(where, view),
		placeholderData: keepPreviousData,
	});
	useEffect(() => onRefresh(() => void client.invalidateQueries()), [client]);
	useEffect(() => {
		if (page.data && !page.isPlaceholderData) tellWhere(page.data.id);
	}, [page.data, page.isPlaceholderData]);
	if (page.isError) return <Trouble error={page.error} retry={() => void page.refetch()} />;
	if (!page.data) return <Loading />;
	const thanks = (location.state as { thanks?: string } | null)?.thanks ?? saidAt(location.key);
	return (
		<Frame app={page.data.app}>
			{thanks && (
				<p role="status" className="note note-good mb-4">
					{thanks}
				</p>
			)}
			<Blocks page={page.data} where={where} busy={page.isPlaceholderData} />
			{search.get("open") && (
				<Suspense fallback={null}>
					<Beside />
				</Suspense>
			)}
		</Frame>
	);
}

/** The blocks of a page. Each page has one main heading: its first, or its name for those who cannot see it. */
function Blocks({ page, where, busy }: { page: Page; where: Where; busy: boolean }) {
	const ref = useRef<HTMLDivElement>(null);
	const shown = `${page.id} ${page.record ?? ""}`;
	const before = useRef(shown);
	const first = firstHeading(page.blocks);
	useTitle(page.name, page.app.name);
	const back = useNavigationType() === "POP";
	useEffect(() => {
		if (before.current !== shown) {
			ref.current?.focus({ preventScroll: true }); // another page begins at its top, for those who hear it, too
			if (!back) window.scrollTo(0, 0); // where Back leads, the browser knows
		}
		before.current = shown;
	}, [shown, back]);
	return (
		<div ref={ref} tabIndex={-1} className="page-grid outline-none" aria-busy={busy} key={shown}>
			{!first && <h1 className="sr-only">{page.name}</h1>}
			{onStage ? (
				<Suspense fallback={null}>
					<StageBlocks page={page} where={where} first={first} />
				</Suspense>
			) : (
				<BlockList blocks={page.blocks} where={where} first={first} />
			)}
			{page.blocks.length === 0 && !onStage && <p className="empty">This page has nothing on it yet.</p>}
		</div>
	);
}

/** The id of the first heading, which is that of the page. */
export function firstHeading(blocks: Block[]): string | undefined {
	for (const b of blocks) {
		if (b.kind === "heading") return b.id;
		const inside = b.kind === "group" || b.kind === "part" ? firstHeading(b.blocks) : undefined;
		if (inside) return inside;
	}
	return undefined;
}

/** What stands there while something is on its way. */
export function Loading() {
	return (
		<p className="app-width py-16 text-soft" role="status">
			Loading …
		</p>
	);
}

/** What is shown instead of a page, with the way on. */
function Trouble({ error, retry }: { error: unknown; retry: () => void }) {
	const app = useQuery({ queryKey: ["app"], queryFn: getApp });
	const location = useLocation();
	const status = error instanceof Problem ? error.status : 0;
	const body =
		status === 401 && !onStage ? (
			<Suspense fallback={<Loading />}>
				<SignInForm why="Sign in to see this page." to={location.pathname} />
			</Suspense>
		) : (
			<div className="card max-w-lg">
				<h1 className="page-heading">{headings[status] ?? "Something went wrong"}</h1>
				<p className="mt-2">{status === 401 ? "Visitors are asked to sign in here." : wordsOf(error)}</p>
				<p className="mt-4 flex gap-3">
					{(status === 0 || status >= 500) && (
						<button type="button" className="button" onClick={retry}>
							Try again
						</button>
					)}
					<Link className="button" to="/">
						Go to the home page
					</Link>
				</p>
			</div>
		);
	if (app.data) {
		return (
			<Frame app={app.data} gate={status === 401 && !onStage}>
				{body}
			</Frame>
		);
	}
	if (app.isPending) return <Loading />;
	return <main className="app-width py-16">{<p className="note note-bad">{wordsOf(app.error)}</p>}</main>;
}

const headings: Record<number, string> = {
	401: "Sign in",
	403: "No access",
	404: "Page not found",
};
