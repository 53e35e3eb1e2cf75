import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useId, useState } from "react";
import { Link, useNavigate } from "react-router";
import { wordsOf } from "../../shared/api/client";
import { addressOf, newKey, startFlow } from "../place";
import type { BlockProps } from ".";

/**
 * A button that opens a page, or starts a workflow. It is not there for those who cannot do that. Its hint shows while it
 * is pointed at or has the focus.
 */
export default function Button({ block }: BlockProps<"button">) {
	const hint = useId();
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
	if (block.flow) return <Starter flow={block.flow} text={block.text} look={look} box={box} />;
	if (!block.to) return null;
	return box(
		<Link {...look} to={addressOf(block.to)}>
			{block.text}
		</Link>,
	);
}

interface StarterProps {
	flow: { id: string; record?: string };
	text: string;
	look: { className: string; "aria-describedby"?: string };
	box: (button: ReactNode) => ReactNode;
}

/** A button that starts a workflow, and what that says. Pressed again before it is done, it is one press. */
function Starter({ flow, text, look, box }: StarterProps) {
	const client = useQueryClient();
	const navigate = useNavigate();
	const [key, setKey] = useState(newKey);
	const press = useMutation({
		networkMode: "always",
		mutationFn: () => startFlow(key, flow.id, flow.record),
		onSuccess: async (got) => {
			setKey(newKey());
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
			<p role="status" className={press.data?.message ? "note-good" : undefined} data-tone={press.data?.tone}>
				{press.data?.message}
			</p>
			{press.isError && (
				<p role="alert" className="note-bad">
					{wordsOf(press.error)}
				</p>
			)}
		</>
	);
}
