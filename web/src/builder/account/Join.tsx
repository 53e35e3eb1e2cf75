import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { request } from "../../shared/api/client";
import { type Joining, useSession } from "../api";
import { Loading } from "../ui";
import { Front, FrontForm, Input } from "./SignIn";

/** Where an invitation to a workspace leads. */
export function Join() {
	const [token] = useState(() => new URLSearchParams(location.hash.slice(1)).get("token") ?? "");
	const session = useSession();
	const look = useQuery({
		queryKey: ["join", token],
		queryFn: () => request<Joining>("POST", "/api/join/look", { token }),
		retry: false,
	});
	return (
		<Front>
			{look.isError ? (
				<div className="grid gap-4 w-80">
					<h2 className="font-display text-2xl font-semibold">This invitation no longer works</h2>
					<p>It was used or cancelled, or it is too old. Ask for a new one.</p>
					<Link to="/" className="btn">
						Go to the workshop
					</Link>
				</div>
			) : !look.data || !session.data ? (
				<Loading />
			) : session.data.signedIn ? (
				<Accept token={token} to={look.data} />
			) : (
				<AcceptNew token={token} to={look.data} />
			)}
		</Front>
	);
}

const offer = (j: Joining) => `You are invited to build in ${j.workspace}, as ${j.role}.`;

function Accept({ token, to }: { token: string; to: Joining }) {
	const client = useQueryClient();
	const navigate = useNavigate();
	const join = useMutation({
		mutationFn: () => request<void>("POST", "/api/join", { token }),
		onSuccess: async () => {
			await client.resetQueries();
			navigate("/");
		},
	});
	return (
		<FrontForm title={`Join ${to.workspace}`} text={offer(to)} error={join.error} onSubmit={() => join.mutate()}>
			<button type="submit" className="btn btn-main" disabled={join.isPending}>
				Join
			</button>
		</FrontForm>
	);
}

function AcceptNew({ token, to }: { token: string; to: Joining }) {
	const client = useQueryClient();
	const navigate = useNavigate();
	const [name, setName] = useState("");
	const [password, setPassword] = useState("");
	const join = useMutation({
		mutationFn: async () => {
			await request<void>("POST", "/api/join/new", { token, name, password });
			await request<unknown>("POST", "/api/sign-in", { email: to.email, password });
		},
		onSuccess: async () => {
			await client.resetQueries();
			navigate("/");
		},
	});
	return (
		<FrontForm
			title={`Join ${to.workspace}`}
			text={`${offer(to)} Create an account with ${to.email}. If you have one, sign in first and open the invitation again.`}
			error={join.error}
			onSubmit={() => join.mutate()}
		>
			<Input label="Your name" autoComplete="name" value={name} onChange={setName} />
			<Input label="Password" type="password" autoComplete="new-password" value={password} onChange={setPassword} />
			<button type="submit" className="btn btn-main" disabled={join.isPending}>
				Join
			</button>
		</FrontForm>
	);
}
