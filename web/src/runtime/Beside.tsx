import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { ExternalLink, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { Link, useLocation, useNavigate, useSearchParams } from "react-router";
import { wordsOf } from "../shared/api/client";
import { viewOf } from "./asks";
import { BlockList } from "./blocks";
import { firstHeading, Loading } from "./PageView";
import { getPage, type Where } from "./place";

/** The page about a record that a row opened: in a panel at the side or in a dialog. The address says so. */
export default function Beside() {
	const [search] = useSearchParams();
	const location = useLocation();
	const navigate = useNavigate();
	const [path = "", record = ""] = (search.get("open") ?? "").split("/");
	const where: Where = { path, record };
	const view = viewOf(search, path);
	const page = useQuery({
		queryKey: ["page", where, view],
		queryFn: () => getPage(where, view),
		placeholderData: keepPreviousData,
	});
	const close = () => {
		const next = new URLSearchParams(search);
		next.delete("open");
		next.delete("in");
		navigate({ pathname: location.pathname, search: next.toString() }, { preventScrollReset: true });
	};
	const side = search.get("in") !== "dialog";
	return (
		<Dialog.Root open onOpenChange={(open) => !open && close()}>
			<Dialog.Portal>
				<Dialog.Overlay className="beside-shade" />
				<Dialog.Content className={side ? "beside beside-panel" : "beside beside-dialog"} aria-describedby={undefined}>
					<header className="beside-head">
						<Dialog.Title className="text-soft">{page.data?.name ?? "Loading …"}</Dialog.Title>
						<span className="flex-1" />
						<Link className="text-link inline-flex items-center gap-1" to={`/${path}/${record}`}>
							Whole page <ExternalLink size={14} aria-hidden />
						</Link>
						<Dialog.Close className="icon-button" aria-label="Close">
							<X size={18} aria-hidden />
						</Dialog.Close>
					</header>
					<div className="beside-body">
						{page.isError ? (
							<p className="note note-bad">{wordsOf(page.error)}</p>
						) : page.data ? (
							<div className="page-grid" aria-busy={page.isPlaceholderData}>
								<BlockList blocks={page.data.blocks} where={where} first={firstHeading(page.data.blocks)} />
							</div>
						) : (
							<Loading />
						)}
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}
