import { type CSSProperties, type KeyboardEvent, useId, useState } from "react";
import { bandHref } from "../place";
import { BlockList, type BlockProps } from ".";

/** Blocks that belong together: plain, as a card, on a band, folded, or as tabs. */
export function Group(props: BlockProps<"group">) {
	const { block, inside } = props;
	switch (block.look) {
		case "tabs":
			return <Tabs {...props} />;
		case "folded":
			return (
				<details className="card folded" open={inside !== undefined}>
					<summary>{block.title}</summary>
					<Inside {...props} />
				</details>
			);
		case "band": {
			const picture = block.picture && ({ "--picture": `url("${bandHref(block.picture)}")` } as CSSProperties);
			return (
				<section className={`band ${picture ? "band-picture" : ""}`} style={picture || undefined}>
					{block.title && <h2 className="list-title">{block.title}</h2>}
					<Inside {...props} />
				</section>
			);
		}
		default:
			return (
				<section className={block.look === "card" ? "card" : ""}>
					{block.title && <h2 className="list-title">{block.title}</h2>}
					<Inside {...props} />
				</section>
			);
	}
}

function Inside({ block, where, firstID, inside }: BlockProps<"group">) {
	return <div className="page-grid">{inside ?? <BlockList blocks={block.blocks} where={where} first={firstID} />}</div>;
}

/** Tabs, of which the arrows choose one. */
function Tabs({ block, where, firstID, inside }: BlockProps<"group">) {
	const [chosen, setChosen] = useState(0);
	const id = useId();
	const tabs = block.blocks.filter((b) => b.kind === "group");
	const at = Math.min(chosen, tabs.length - 1);
	const tab = tabs[at];
	const keys = (e: KeyboardEvent) => {
		const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
		if (!step) return;
		e.preventDefault();
		const next = (at + step + tabs.length) % tabs.length;
		setChosen(next);
		document.getElementById(`${id}-${next}`)?.focus();
	};
	if (inside)
		return (
			<section className="tabs">
				{block.title && <p className="text-soft">{block.title}</p>}
				<div className="page-grid">{inside}</div>
			</section>
		); // the builder sees all of them, one under the other
	if (!tab) return null;
	return (
		<section className="tabs">
			<div role="tablist" aria-label={block.title || "Tabs"} className="tab-list" onKeyDown={keys}>
				{tabs.map((t, i) => (
					<button
						key={t.id}
						id={`${id}-${i}`}
						type="button"
						role="tab"
						aria-selected={i === at}
						aria-controls={`${id}-panel`}
						tabIndex={i === at ? 0 : -1}
						onClick={() => setChosen(i)}
					>
						{t.title}
					</button>
				))}
			</div>
			<div id={`${id}-panel`} role="tabpanel" aria-labelledby={`${id}-${at}`} className="page-grid">
				<BlockList blocks={tab.blocks} where={where} first={firstID} />
			</div>
		</section>
	);
}
