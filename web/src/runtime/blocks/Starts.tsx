import { useMutation, useQueryClient } from "@tanstack/react-query";
import { lazy, type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { request, wordsOf } from "../../shared/api/client";
import type { components } from "../../shared/api/runtime.gen";
import { addressOf, base, newKey } from "../place";

const Asking = lazy(() => import("./Asking"));

/** Starts a workflow; with the same key, once. */
const start = (key: string, flow: Flow) =>
	request<components["schemas"]["Started"]>("POST", `${base}/-/workflows/${flow.id}`, { key, record: flow.record });

interface Flow {
	id: string;
	record?: string;
	asks?: string;
}

interface StartsProps {
	text: string;
	look: { className: string; "aria-describedby"?: string };
	box: (button: ReactNode) => ReactNode;
	/** None while it makes no sense to start it. */
	flow?: Flow;
}

/** A button for a workflow. What that said stays, also where it makes no sense any more to start it again. */
export default function Starts({ flow, ...props }: StartsProps) {
	const [said, say] = useState("");
	return (
		<>
			{flow?.asks && (
				<Asking
					text={props.text}
					look={props.look.className}
					where={{ path: flow.asks, record: flow.record ?? "" }}
					say={say}
				/>
			)}
			{flow && !flow.asks && <Starter flow={flow} {...props} say={say} />}
			<p role="status" className={said ? "note-good" : undefined}>
				{said}
			</p>
		</>
	);
}

type StarterProps = StartsProps & { flow: Flow; say: (words: string) => void };

/** A button that starts a workflow. Pressed again before it is done, it is one press. */
function Starter({ flow, text, look, box, say }: StarterProps) {
	const client = useQueryClient();
	const navigate = useNavigate();
	const [key, setKey] = useState(newKey);
	const press = useMutation({
		networkMode: "always",
		mutationFn: () => start(key, flow),
		onMutate: () => say(""),
		onSuccess: async (got) => {
			setKey(newKey());
			say(got.message ?? "");
			if (got.go) navigate(addressOf(got.go));
			await client.invalidateQueries();
		},
	});
	return (
		<>
			{box(
				<button
					type="button"
					{...look}
					aria-disabled={press.isPending || undefined}
					onClick={() => !press.isPending && press.mutate()}
				>
					{press.isPending ? `${text} …` : text}
				</button>,
			)}
			{press.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(press.error)}
				</p>
			)}
		</>
	);
}
