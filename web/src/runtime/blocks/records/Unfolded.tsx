import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { wordsOf } from "../../../shared/api/client";
import { OwnAsks, viewOf } from "../../asks";
import { getPage, type Where } from "../../place";
import { BlockList } from "..";

/** The page about a record, beneath its row. What is asked of its lists is asked of them alone. */
export default function Unfolded({ where }: { where: Where }) {
	const own = useState(() => new URLSearchParams());
	const view = viewOf(own[0], where.path);
	const page = useQuery({
		queryKey: ["page", where, view],
		queryFn: () => getPage(where, view),
		placeholderData: keepPreviousData,
	});
	if (page.isError) return <p className="note note-bad">{wordsOf(page.error)}</p>;
	if (!page.data)
		return (
			<p className="text-soft" role="status">
				Loading …
			</p>
		);
	return (
		<OwnAsks.Provider value={own}>
			<div className="page-grid unfolded" aria-busy={page.isPlaceholderData}>
				<BlockList blocks={page.data.blocks} where={where} />
			</div>
		</OwnAsks.Provider>
	);
}
