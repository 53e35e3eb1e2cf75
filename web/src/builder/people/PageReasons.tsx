import { Check, X } from "lucide-react";
import { useState } from "react";
import { type AppOut, type PageWhy, useOfApp } from "../api";
import { ErrorNote, Loading } from "../ui";
import { AboutRecord } from "./AboutRecord";

/** Why somebody gets what they get of a page: block by block what is shown, what is missing, and by which rule. */
export function PageReasons({ app, as, page }: { app: AppOut; as: string; page: string }) {
	const why = useOfApp<PageWhy>(app.id, "/why/page", { as, page }, page !== "");
	if (why.isError) return <ErrorNote error={why.error} />;
	if (!why.data) return <Loading />;
	return (
		<section className="grid gap-3" data-why>
			<p className="font-medium flex gap-2">
				<Sign may={why.data.may} />
				<span>{why.data.text}</span>
			</p>
			<ol className="grid gap-2">
				{why.data.blocks.map((b) => (
					<li key={b.id} className="bg-surface border border-line rounded-md p-3 flex gap-2">
						<Sign may={b.shown} />
						<div className="flex-1 min-w-0">
							<span className="capitalize font-medium">{b.kind}</span>
							{b.shown ? " is shown. " : " is missing. "}
							{b.text}
							{b.notes.map((n) => (
								<span key={n} className="block text-resin">
									{n}
								</span>
							))}
							{b.table && as !== "founder" && !as.startsWith("live.") && <AskAbout app={app} as={as} table={b.table} />}
						</div>
					</li>
				))}
			</ol>
		</section>
	);
}

function Sign({ may }: { may: boolean }) {
	return may ? (
		<Check size={16} className="text-pine shrink-0 mt-1" aria-label="Yes" />
	) : (
		<X size={16} className="text-berry shrink-0 mt-1" aria-label="No" />
	);
}

/** Asks about single records of what a block shows, or does not. */
function AskAbout({ app, as, table }: { app: AppOut; as: string; table: string }) {
	const [open, setOpen] = useState(false);
	return (
		<div className="mt-1">
			<button type="button" className="link-button" aria-expanded={open} onClick={() => setOpen(!open)}>
				Ask about a record
			</button>
			{open && (
				<div className="grid gap-3 mt-2">
					<AboutRecord app={app} as={as} of={table} />
				</div>
			)}
		</div>
	);
}
