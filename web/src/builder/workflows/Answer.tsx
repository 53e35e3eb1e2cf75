import { inside, type Json } from "./answer";

interface AnswerProps {
	of: Json;
	pointer?: string;
	/** Pointers of what is taken already. */
	taken: (pointer: string) => boolean;
	onTake?: (pointer: string, value: Json) => void;
	onRows?: (pointer: string) => void;
}

/** How many items of a list are shown. */
const most = 3;

/** An answer of a service, in which one clicks what is to be taken. */
export function Answer({ of, pointer = "", taken, onTake, onRows }: AnswerProps) {
	if (of === null || typeof of !== "object") {
		const text = of === null ? "nothing" : String(of);
		if (!onTake || of === null) return <span className="text-soft break-all">{text}</span>;
		return taken(pointer) ? (
			<span className="break-all font-semibold text-pine">{text}, taken</span>
		) : (
			<button type="button" className="link-button break-all text-left" onClick={() => onTake(pointer, of)}>
				{text}
			</button>
		);
	}
	const list = Array.isArray(of);
	const entries: [string | number, Json][] = list ? of.slice(0, most).map((v, i) => [i, v]) : Object.entries(of);
	return (
		<div className="grid gap-0.5">
			{list && (
				<p className="text-soft">
					a list of {of.length}{" "}
					{onRows && (
						<button type="button" className="link-button" onClick={() => onRows(pointer || "/")}>
							These are the rows
						</button>
					)}
				</p>
			)}
			<ul className="pl-3 border-l border-line grid gap-0.5">
				{entries.map(([name, v]) => (
					<li key={name} className={v !== null && typeof v === "object" ? "" : "flex gap-2"}>
						<span className="text-soft whitespace-nowrap">{list ? `row ${Number(name) + 1}` : name}</span>
						<Answer of={v} pointer={inside(pointer, name)} taken={taken} onTake={onTake} onRows={onRows} />
					</li>
				))}
			</ul>
		</div>
	);
}
