import { useState } from "react";
import type { AppOut } from "../api";
import { AboutRecord, Pick, type WhyProps } from "./AboutRecord";
import { PageReasons } from "./PageReasons";

/** Why somebody may do something with a record, a field or a page, or not. */
export function WhyView({ app, as, onShow }: WhyProps) {
	const [about, setAbout] = useState<"record" | "page">("record");
	if (as === "founder")
		return (
			<div className="p-4 grid gap-2 justify-items-start max-w-xl">
				<h2 className="font-display text-lg font-semibold">Why is something shown, or missing?</h2>
				<p className="text-soft">Choose a person at “Seen as” above. Then ask here about any record, field or page.</p>
			</div>
		);
	return (
		<div className="p-4 grid gap-4 content-start max-w-3xl">
			<h2 className="font-display text-lg font-semibold">Why is something shown, or missing?</h2>
			<div className="flex gap-1">
				{(["record", "page"] as const).map((x) => (
					<button
						key={x}
						type="button"
						className={`px-2 py-1 rounded-md ${about === x ? "bg-surface font-semibold" : "text-soft"}`}
						aria-pressed={about === x}
						onClick={() => setAbout(x)}
					>
						{x === "record" ? "A record or field" : "A page and what is on it"}
					</button>
				))}
			</div>
			{about === "record" ? <AboutRecord app={app} as={as} onShow={onShow} /> : <AboutPage app={app} as={as} />}
		</div>
	);
}

function AboutPage({ app, as }: { app: AppOut; as: string }) {
	const [page, setPage] = useState(app.pages[0]?.id ?? "");
	return (
		<>
			<Pick label="Page" value={page} onChange={setPage} options={app.pages.map((p) => [p.id, p.name])} />
			<PageReasons app={app} as={as} page={page} />
		</>
	);
}
