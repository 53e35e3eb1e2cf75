import { Check, X } from "lucide-react";
import { type PageWhy, useOfApp } from "../api";
import { ErrorNote, Loading } from "../ui";

/** Why somebody gets what they get of a page: block by block what is shown, what is missing, and by which rule. */
export function PageReasons({ app, as, page }: { app: string; as: string; page: string }) {
	const why = useOfApp<PageWhy>(app, "/why/page", { as, page }, page !== "");
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
						<span>
							<span className="capitalize font-medium">{b.kind}</span>
							{b.shown ? " is shown. " : " is missing. "}
							{b.text}
							{b.notes.map((n) => (
								<span key={n} className="block text-resin">
									{n}
								</span>
							))}
						</span>
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
