import { useQuery } from "@tanstack/react-query";
import { RefreshCw } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { request } from "../shared/api/client";
import { useTitle } from "../shared/title";
import { appUrl, type MailOut } from "./api";
import { Attached, Empty, ErrorNote, Loading, Modal, moment, Wordmark } from "./ui";

/** All mail of the demo. */
export function DemoMailbox() {
	useTitle("Mailbox", "Pine Gate");
	return (
		<div className="min-h-dvh">
			<header className="bg-deep text-on-deep">
				<div className="max-w-5xl mx-auto flex items-center gap-4 px-6 h-14">
					<Link to="/">
						<Wordmark />
					</Link>
				</div>
			</header>
			<main className="max-w-5xl mx-auto px-6 py-8">
				<h1 className="font-display text-3xl font-semibold mb-1">Mailbox</h1>
				<p className="text-soft mb-5">No mail server is set, so emails that apps send arrive here.</p>
				<Mails url="/api/mailbox" />
			</main>
		</div>
	);
}

/** The mail of one app, over the builder. */
export function AppMailbox({ app, onClose }: { app: string; onClose: () => void }) {
	return (
		<Modal title="Emails from this app" open onClose={onClose} wide>
			<Mails url={appUrl(app, "/mails")} />
		</Modal>
	);
}

function Mails({ url }: { url: string }) {
	const mails = useQuery({
		queryKey: ["mails", url],
		queryFn: () => request<MailOut[]>("GET", url),
		refetchInterval: 3_000,
	});
	const [open, setOpen] = useState<number | null>(null);
	if (mails.isError) return <ErrorNote error={mails.error} />;
	if (!mails.data) return <Loading />;
	if (mails.data.length === 0)
		return (
			<Empty title="No emails yet">
				<p>Sign-in codes and invitations arrive here.</p>
			</Empty>
		);
	const shown = open ?? mails.data[0]?.id;
	return (
		<div className="grid gap-2">
			<button type="button" className="btn justify-self-end" onClick={() => void mails.refetch()}>
				<RefreshCw size={14} aria-hidden /> Check again
			</button>
			<ul className="grid gap-2">
				{mails.data.map((m) => (
					<li key={m.id} className="bg-surface border border-line rounded-md">
						<button
							type="button"
							className="w-full text-left p-3 flex gap-4"
							aria-expanded={m.id === shown}
							onClick={() => setOpen(m.id)}
						>
							<span className="flex-1">
								<span className="font-medium block">{m.subject}</span>
								<span className="text-soft">to {m.to}</span>
							</span>
							<span className="text-soft whitespace-nowrap">{moment(m.at)}</span>
						</button>
						{m.id === shown && (
							<div className="px-3 pb-3">
								<pre className="whitespace-pre-wrap font-sans">{m.body}</pre>
								<Attached files={m.files ? [m.files] : []} />
							</div>
						)}
					</li>
				))}
			</ul>
		</div>
	);
}
