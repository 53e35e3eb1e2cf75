import type { Column, Row } from "./values";

interface ChoiceTextProps {
	row: Row;
	column: Column;
	text: string;
	/** The address of the picture of a choice. */
	picture: (id: string) => string;
}

/** A value as text; a choice with the colour and the picture of its list. */
export function ChoiceText({ row, column, text, picture }: ChoiceTextProps) {
	const id = row[column.id];
	const choice = column.kind === "choice" && !column.many ? column.choices?.find((c) => c.id === id) : undefined;
	if (!choice?.colour && !choice?.picture) return text;
	return (
		<span className="inline-flex items-center gap-1.5">
			{choice.colour && (
				<span className="size-2.5 rounded-full shrink-0" style={{ background: choice.colour }} aria-hidden />
			)}
			{choice.picture && <img src={picture(choice.picture)} alt="" className="h-6 rounded-sm shrink-0" />}
			{text}
		</span>
	);
}
