import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { request, withQuery } from "../../shared/api/client";
import { type AppOut, appUrl, type LetterList, type LetterOut, useOfApp } from "../api";
import { Attached, Empty, ErrorNote, Loading, moment } from "../ui";
import type { AppPlace } from "./PlacePick";

const fates = {
	waiting: ["Waiting to go out", "text-resin"],
	sent: ["Sent", "text-pine"],
	refused: ["Not sent", "text-berry font-medium"],
	unwanted: ["Not sent: unsubscribed", "text-soft"],
	caught: ["Kept here: drafts send nothing", "text-soft"],
} as const;

/** Emails that workflows sent, and what became of each. */
export function Letters({ app, at: place }: { app: AppOut; at: AppPlace }) {
	const [open, setOpen] = useState("");
	const mails = useInfiniteQuery({
		queryKey: ["app", app.id, "letters", place],
		refetchInterval: 10_000,
		queryFn: ({ pageParam }) =>
			request<LetterList>("GET", withQuery(appUrl(app.id, "/letters"), { place, before: pageParam || undefined })),
		initialPageParam: "",
		getNextPageParam: (last) => (last.more ? last.letters.at(-1)?.id : undefined),
	});
	const all = mails.data?.pages.flatMap((p) => p.letters) ?? [];
	return (
		<div className="p-4 grid gap-3 content-start">
			<h2 className="font-display text-lg font-semibold">Emails of workflows</h2>
			{mails.isError && <ErrorNote error={mails.error} />}
			{mails.isPending && <Loading />}
			{mails.data && all.length === 0 && (
				<Empty title="No emails yet">
					<p>Each email that a workflow sends is kept here for 30 days, with what became of it.</p>
				</Empty>
			)}
			{all.length > 0 && (
				<ul className="border border-line rounded-md bg-surface divide-y divide-line">
					{all.map((l) => (
						<li key={l.id}>
							<button
								type="button"
								className="w-full text-left px-3 py-2 flex gap-4 items-baseline"
								aria-expanded={l.id === open}
								onClick={() => setOpen(l.id === open ? "" : l.id)}
							>
								<span className="flex-1 min-w-0">
									<span className="font-medium block">{l.subject}</span>
									<span className="text-soft">to {l.to}</span>
								</span>
								<span className={fates[l.status][1]}>{fates[l.status][0]}</span>
								<span className="text-soft whitespace-nowrap">{moment(l.sentAt ?? l.at)}</span>
							</button>
							{l.error && <p className="px-3 pb-2 text-berry">{l.error}</p>}
							{l.id === open && <Body app={app.id} letter={l.id} />}
						</li>
					))}
				</ul>
			)}
			{mails.hasNextPage && (
				<button type="button" className="btn justify-self-start" onClick={() => void mails.fetchNextPage()}>
					Show older emails
				</button>
			)}
		</div>
	);
}

function Body({ app, letter }: { app: string; letter: string }) {
	const whole = useOfApp<LetterOut>(app, `/letters/${letter}`);
	if (whole.isError) return <ErrorNote error={whole.error} />;
	if (!whole.data) return <Loading />;
	return (
		<div className="px-3 pb-3">
			<pre className="whitespace-pre-wrap font-sans">{whole.data.body}</pre>
			<Attached shown={whole.data.shown} files={whole.data.files} />
		</div>
	);
}
