import { useMutation } from "@tanstack/react-query";
import { Copy } from "lucide-react";
import { useId, useState } from "react";
import { request, withQuery } from "../../shared/api/client";
import { type AddressOut, type AppOut, appUrl, useChange, useOfApp, type WorkflowOut } from "../api";
import { ErrorNote, moment } from "../ui";
import { Answer } from "./Answer";
import { nameOf, readJson, typeOf } from "./answer";
import { type AppPlace, PlacePick } from "./PlacePick";

interface IncomingProps {
	app: AppOut;
	flow: WorkflowOut;
	/** What comes in, as JSON. */
	body: string;
	onBody: (to: string) => void;
}

/** What comes in from elsewhere to start a workflow: where, how it is signed, and what is taken of it. */
export function Incoming({ app, flow, body, onBody }: IncomingProps) {
	const id = useId();
	const change = useChange(app.id);
	const may = app.member !== "viewer";
	const whole = readJson(body);
	const takes = flow.incoming?.takes ?? [];
	return (
		<div className="grid gap-4">
			{app.member === "owner" && <Address app={app} flow={flow} />}
			<div className="grid gap-1">
				<label className="font-medium" htmlFor={id}>
					What comes in, as JSON
				</label>
				<textarea
					id={id}
					className="input font-mono text-sm min-h-28"
					placeholder='{"id": "1", "boat": "Sandpiper"}'
					value={body}
					onChange={(e) => onBody(e.target.value)}
				/>
				{body !== "" && whole === undefined && <p className="text-berry">This is not JSON yet.</p>}
				{may && whole !== undefined && body !== flow.incoming?.sample && (
					<button
						type="button"
						className="link-button justify-self-start"
						onClick={() => change.mutate([{ kind: "set", of: flow.id, values: { sample: body } }])}
					>
						Keep it as the sample
					</button>
				)}
			</div>
			{whole !== undefined && (
				<div className="grid gap-1">
					{may && <p className="text-soft">Click a value to take it: the steps can use it then.</p>}
					<Answer
						of={whole}
						taken={(p) => takes.some((t) => t.at === p)}
						onTake={
							may
								? (p, v) =>
										change.mutate([
											{
												kind: "add",
												what: "taken",
												into: flow.id,
												values: { name: nameOf(p), type: typeOf(v), from: p },
											},
										])
								: undefined
						}
					/>
				</div>
			)}
			{change.isError && <ErrorNote error={change.error} />}
		</div>
	);
}

/** Where calls come in, and the secret with which they are signed. */
function Address({ app, flow }: { app: AppOut; flow: WorkflowOut }) {
	const [place, setPlace] = useState<AppPlace>(app.liveVersion > 0 ? "live" : "draft");
	const [secret, setSecret] = useState("");
	const [sure, setSure] = useState(false);
	const id = useId();
	const at = useOfApp<AddressOut>(app.id, `/workflows/${flow.id}/address`, { place });
	const renew = useMutation({
		mutationFn: () =>
			request<AddressOut>("POST", withQuery(appUrl(app.id, `/workflows/${flow.id}/address`), { place })),
		onSuccess: () => {
			setSure(false);
			void at.refetch();
		},
	});
	const sign = useMutation({
		mutationFn: () => request<AddressOut>("PUT", appUrl(app.id, `/workflows/${flow.id}/signature`), { secret }),
		onSuccess: () => {
			setSecret("");
			void at.refetch();
		},
	});
	return (
		<section className="border border-line rounded-md bg-surface p-4 grid gap-3">
			<div className="flex flex-wrap items-center gap-2">
				<h3 className="font-semibold mr-auto">Where calls come in</h3>
				<PlacePick place={place} onPlace={setPlace} onAgain={() => void at.refetch()} />
			</div>
			{at.isError && <ErrorNote error={at.error} />}
			{at.data?.address ? (
				<>
					<p className="flex flex-wrap items-center gap-2">
						<code className="break-all">{at.data.address}</code>
						<button
							type="button"
							className="btn"
							aria-label="Copy the address"
							onClick={() => void navigator.clipboard.writeText(at.data?.address ?? "")}
						>
							<Copy size={14} aria-hidden /> Copy
						</button>
					</p>
					<p className="text-soft">
						Whoever knows it can start this workflow. Give it to the service that calls, and to no one else.
					</p>
					{sure ? (
						<p className="flex flex-wrap items-center gap-2">
							The one above opens nothing from then on.
							<button
								type="button"
								className="btn btn-danger"
								disabled={renew.isPending}
								onClick={() => renew.mutate()}
							>
								Make a new one
							</button>
							<button type="button" className="btn" onClick={() => setSure(false)}>
								Cancel
							</button>
						</p>
					) : (
						<button type="button" className="btn justify-self-start" onClick={() => setSure(true)}>
							Make a new one …
						</button>
					)}
				</>
			) : (
				at.data && (
					<p className="flex flex-wrap items-center gap-2">
						There is no address yet.
						<button type="button" className="btn" disabled={renew.isPending} onClick={() => renew.mutate()}>
							Make one
						</button>
					</p>
				)
			)}
			{renew.isError && <ErrorNote error={renew.error} />}
			{at.data?.signed && (
				<form
					className="grid gap-1"
					onSubmit={(e) => {
						e.preventDefault();
						sign.mutate();
					}}
				>
					<label className="font-medium" htmlFor={id}>
						The secret with which calls are signed, in the header {at.data.signed}
					</label>
					<p className="text-soft">
						{at.data.secret
							? `One is kept, given by ${at.data.secret.by}, ${moment(at.data.secret.at)}.`
							: "None is kept yet, so that every call is refused."}
					</p>
					<div className="flex gap-2">
						<input
							id={id}
							className="input w-80"
							type="password"
							autoComplete="off"
							value={secret}
							onChange={(e) => setSecret(e.target.value)}
						/>
						<button type="submit" className="btn" disabled={!secret || sign.isPending}>
							Keep it
						</button>
					</div>
					{sign.isError && <ErrorNote error={sign.error} />}
				</form>
			)}
		</section>
	);
}
