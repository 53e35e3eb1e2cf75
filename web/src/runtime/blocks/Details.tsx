import { ChoiceText } from "../../shared/fields/choice";
import { Files } from "../../shared/fields/files";
import { valueText } from "../../shared/fields/values";
import { fileHref, pictureHref } from "../place";
import type { BlockProps } from ".";

/** Fields of the page's record. */
export default function Details({ block: { columns, row } }: BlockProps<"details">) {
	if (columns.length === 0) return <p className="empty">You can’t see any of these details.</p>;
	return (
		<dl className="card details">
			{columns.map((c) => (
				<div key={c.id}>
					<dt>{c.name}</dt>
					<dd className="whitespace-pre-line">
						{c.kind === "file" && valueText(row, c) ? (
							<Files row={row} column={c} href={fileHref(row, c)} height={140} />
						) : (
							(valueText(row, c) && (
								<ChoiceText row={row} column={c} text={valueText(row, c)} picture={pictureHref} />
							)) || <span className="text-soft">–</span>
						)}
					</dd>
				</div>
			))}
		</dl>
	);
}
