import { useMutation } from "@tanstack/react-query";
import { wordsOf } from "../../../shared/api/client";
import { newKey, sendForm } from "../../place";
import type { Filled } from "./filled";
import type { Filling } from "./use";

/** Tells what sending a form would do, and does nothing; for builders. */
export default function Rehearsal({ filling }: { filling: Filling }) {
	const { form, where, filled } = filling;
	const rehearse = useMutation({
		mutationFn: async (_: Filled) =>
			sendForm(newKey(), form.id, where, form.revision, { ...(await filling.now()), rehearse: true }),
		onError: filling.refused,
	});
	return (
		<>
			<p>
				<button type="button" className="text-link" onClick={() => rehearse.mutate(filled)}>
					Rehearse sending
				</button>
			</p>
			{rehearse.isError && (
				<p className="note note-bad" role="alert">
					{wordsOf(rehearse.error)}
				</p>
			)}
			{rehearse.isSuccess && (
				<p className="note" role="status">
					{rehearse.data.rehearsed?.join(" ")} Then it says: “{rehearse.data.thanks}” Nothing was kept.
				</p>
			)}
		</>
	);
}
