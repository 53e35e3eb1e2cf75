import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { components } from "../../shared/api/runtime.gen";
import { Frame } from "../Frame";
import { carried, post, useGate } from "./api";
import { GateCard, GateHead } from "./parts";

type Leaves = components["schemas"]["Leaves"];

/** The page to which the link at the end of an email leads. */
export function Unsubscribe() {
	const gate = useGate();
	const [token] = useState(() => carried().get("token") ?? "");
	const look = useQuery({
		queryKey: ["unsubscribe", token],
		queryFn: () => post<Leaves>("/unsubscribe/look", { token }),
		retry: false,
	});
	if (!gate.data) return null;
	return (
		<Frame app={gate.data.app} gate>
			{look.isError ? (
				<div className="card form-card w-full max-w-md mx-auto">
					<GateHead title="This link doesn’t work" text="Open the link in the email again, as a whole." />
				</div>
			) : look.data ? (
				<Leave about={look.data} token={token} />
			) : (
				<p className="text-soft">Loading …</p>
			)}
		</Frame>
	);
}

function Leave({ about, token }: { about: Leaves; token: string }) {
	const [left, setLeft] = useState(false);
	const leave = useMutation({
		mutationFn: (back: boolean) => post("/unsubscribe", { token, back }),
		onSuccess: (_, back) => setLeft(!back),
	});
	const emails = about.name ? `“${about.name}” emails` : "These emails";
	return (
		<GateCard
			title={left ? "You are unsubscribed" : "Unsubscribe?"}
			text={left ? `${emails} no longer go to ${about.address}.` : `${emails} go to ${about.address}.`}
			error={leave.error}
			onSubmit={() => leave.mutate(left)}
		>
			<button
				type="submit"
				className={`button justify-self-start ${left ? "" : "button-main"}`}
				disabled={leave.isPending}
			>
				{left ? "Subscribe again" : "Unsubscribe"}
			</button>
		</GateCard>
	);
}
