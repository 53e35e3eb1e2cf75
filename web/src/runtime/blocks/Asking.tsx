import { useQuery } from "@tanstack/react-query";
import { lazy } from "react";
import { wordsOf } from "../../shared/api/client";
import { getPage, type Where } from "../place";
import { Opened } from "./form/Opened";

const Form = lazy(() => import("./Form"));

interface AskingProps {
	text: string;
	look: string;
	where: Where;
	/** Says what the workflow said. */
	say: (words: string) => void;
}

/** A button for a workflow that asks something before it runs. */
export default function Asking({ text, look, where, say }: AskingProps) {
	return (
		<Opened text={text} button={look} say={say}>
			<Asked where={where} />
		</Opened>
	);
}

function Asked({ where }: { where: Where }) {
	const page = useQuery({
		queryKey: ["asks", where.path, where.record],
		queryFn: () => getPage(where, ""),
		staleTime: 0,
	});
	if (page.isError)
		return (
			<p role="alert" className="note-bad">
				{wordsOf(page.error)}
			</p>
		);
	const form = page.data?.blocks.find((b) => b.kind === "form");
	return form ? <Form block={form} where={where} /> : <p role="status">Loading …</p>;
}
