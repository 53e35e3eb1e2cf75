import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useLocation, useParams } from "react-router";
import { Problem, wordsOf } from "../shared/api/client";
import { BlockView } from "./blocks";
import { Frame } from "./Frame";
import { SignInForm } from "./gate/SignIn";
import { getApp, getPage, onStage, type Where } from "./place";
import { onRefresh, tellWhere } from "./stage";

/** A page of the app, with everything on it. */
export function PageView() {
	const params = useParams();
	const where: Where = { path: params.path ?? "", record: params.record ?? "" };
	const client = useQueryClient();
	const location = useLocation();
	const page = useQuery({
		queryKey: ["page", where],
		queryFn: () => getPage(where),
		placeholderData: keepPreviousData,
	});
	useEffect(() => onRefresh(() => void client.invalidateQueries()), [client]);
	useEffect(() => {
		if (page.data && !page.isPlaceholderData) tellWhere(page.data.id);
	}, [page.data, page.isPlaceholderData]);
	if (page.isError) return <Trouble error={page.error} retry={() => void page.refetch()} />;
	if (!page.data) return <Loading />;
	const thanks = (location.state as { thanks?: string } | null)?.thanks;
	return (
		<Frame app={page.data.app}>
			{thanks && (
				<p role="status" className="note note-good mb-4">
					{thanks}
				</p>
			)}
			<div className="grid gap-4" aria-busy={page.isPlaceholderData} key={`${page.data.id} ${page.data.record ?? ""}`}>
				{page.data.blocks.map((b) => (
					<BlockView key={b.id} block={b} where={where} />
				))}
				{page.data.blocks.length === 0 && <p className="empty">This page has nothing on it yet.</p>}
			</div>
		</Frame>
	);
}

function Loading() {
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
			<SignInForm why="Please sign in to see this page." to={location.pathname} />
		) : (
			<div className="card max-w-lg">
				<h1 className="page-heading">{headings[status] ?? "This did not work"}</h1>
				<p className="mt-2">
					{status === 401 ? "Whoever sees the app like this is asked to sign in here." : wordsOf(error)}
				</p>
				<p className="mt-4 flex gap-3">
					{(status === 0 || status >= 500) && (
						<button type="button" className="button" onClick={retry}>
							Try again
						</button>
					)}
					<Link className="button" to="/">
						Go to the first page
					</Link>
				</p>
			</div>
		);
	if (app.data) return <Frame app={app.data}>{body}</Frame>;
	if (app.isPending) return <Loading />;
	return <main className="app-width py-16">{<p className="note note-bad">{wordsOf(app.error)}</p>}</main>;
}

const headings: Record<number, string> = {
	401: "Signing in is needed",
	403: "This page is not open to you",
	404: "This is not here",
};
