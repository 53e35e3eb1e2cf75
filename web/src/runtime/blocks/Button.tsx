import { useMutation, useQueryClient } from "@tanstack/react-query";
import { lazy, type ReactNode, useId, useState } from "react";
import { Link, useNavigate } from "react-router";
import { wordsOf } from "../../shared/api/client";
import { addressOf, newKey, startFlow } from "../place";
import type { BlockProps } from ".";

const Asking = lazy(() => import("./Asking"));

type Says = (words: string) => void;

/**
 * A button that opens a page, or starts a workflow. It is not there for those who cannot do that; what a workflow said
 * stays, also where it makes no sense any more to start it again. Its hint shows while it is pointed at or has the focus.
 */
export default function Button({ block }: BlockProps<"button">) {
	const hint = useId();
	const [said, say] = useState("");
	const look = {
		className: block.tone === "quiet" ? "button" : "button button-main",
		"aria-describedby": block.hint ? hint : undefined,
	};
	const box = (button: ReactNode) => (
		<p className="button-box">
			{button}
			{block.hint && (
				<span id={hint} role="tooltip" className="button-hint">
					{block.hint}
				</span>
			)}
		</p>
	);
	if (block.to)
		return box(
			<Link {...look} to={addressOf(block.to)}>
				{block.text}
			</Link>,
		);
	return (
		<>
			{block.flow?.asks && (
				<Asking
					text={block.text}
					look={look.className}
					where={{ path: block.flow.asks, record: block.flow.record ?? "" }}
					say={say}
				/>
			)}
			{block.flow && !block.flow.asks && (
				<Starter flow={block.flow} text={block.text} look={look} box={box} say={say} />
			)}
			<p role="status" className={said ? "note-good" : undefined}>
				{said}
			</p>
		</>
	);
}

interface StarterProps {
	flow: { id: string; record?: string };
	text: string;
	look: { className: string; "aria-describedby"?: string };
	box: (button: ReactNode) => ReactNode;
	say: Says;
}

/** A button that starts a workflow. Pressed again before it is done, it is one press. */
function Starter({ flow, text, look, box, say }: StarterProps) {
	const client = useQueryClient();
	const navigate = useNavigate();
	const [key, setKey] = useState(newKey);
	const press = useMutation({
		networkMode: "always",
		mutationFn: () => startFlow(key, flow.id, flow.record),
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
