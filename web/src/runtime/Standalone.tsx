import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { wordsOf } from "../shared/api/client";
import { useTitle } from "../shared/title";
import { BlockView } from "./blocks";
import { AfterForm } from "./blocks/form/after";
import { wear } from "./look";
import { Loading } from "./PageView";
import { type Done, getStandalone, pictureHref } from "./place";

/** A form by itself, at an address of its own: opened as a page, or standing in one of another site. */
export default function Standalone() {
	const { name = "" } = useParams();
	const form = useQuery({ queryKey: ["standalone", name], queryFn: () => getStandalone(name) });
	const [thanks, setThanks] = useState<string>();
	const app = form.data?.app;
	const after = (got: Done) => {
		setThanks(got.thanks);
		return true;
	};
	useTitle(form.data?.title ?? "", app?.name ?? "");
	useEffect(() => {
		if (app) wear(app);
	}, [app]);
	const inside = window.parent !== window;
	const ref = useHeight(inside, name);
	if (form.isPending) return <Loading />;
	return (
		<main ref={ref} className={inside ? "standalone standalone-inside" : "standalone"}>
			{app && !inside && (
				<p className="standalone-name">
					{app.logo && <img src={pictureHref(app.logo)} alt="" className="app-logo" />}
					{app.name}
				</p>
			)}
			{form.isError ? (
				<p className="note note-bad" role="alert">
					{wordsOf(form.error)}
				</p>
			) : (
				<>
					<h1 className={inside ? "sr-only" : "page-heading"}>{form.data.title}</h1>
					{thanks ? (
						<div className="card form-card" role="status">
							<p>{thanks}</p>
							<p>
								<button type="button" className="button" onClick={() => setThanks(undefined)}>
									Send another
								</button>
							</p>
						</div>
					) : (
						<AfterForm value={after}>
							<BlockView block={form.data.block} where={{ path: form.data.path, record: "" }} />
						</AfterForm>
					)}
				</>
			)}
		</main>
	);
}

/** Tells the page in which it stands how high it is, which follows what is shown. */
function useHeight(inside: boolean, form: string) {
	const ref = useRef<HTMLElement>(null);
	useEffect(() => {
		const shown = ref.current;
		if (!inside || !shown) return;
		const tell = () =>
			window.parent.postMessage({ form, height: Math.ceil(shown.getBoundingClientRect().height) }, "*");
		const watch = new ResizeObserver(tell);
		watch.observe(shown);
		return () => watch.disconnect();
	});
	return ref;
}
