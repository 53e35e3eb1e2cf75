import { useMutation } from "@tanstack/react-query";
import { Play, Radio } from "lucide-react";
import { useId, useState } from "react";
import { request } from "../../shared/api/client";
import {
	type AppOut,
	appUrl,
	type CallOut,
	type ServiceList,
	type ServiceOut,
	type Trial,
	useChange,
	useOfApp,
} from "../api";
import { Empty, ErrorNote, Loading, moment } from "../ui";
import { Answer } from "./Answer";
import { fromOf, nameOf, readJson, typeOf } from "./answer";

/** Services elsewhere that the app calls: their secrets, and trials of their calls. */
export function Services({ app }: { app: AppOut }) {
	const list = useOfApp<ServiceList>(app.id, "/services");
	if (list.isError) return <ErrorNote error={list.error} />;
	if (!list.data) return <Loading />;
	if (list.data.services.length === 0)
		return (
			<Empty title="No services yet">
				<p>
					A service elsewhere answers questions of your app, such as tides or prices, or takes orders from it. Add one
					at the end of the script, with what to ask it. Then try it here.
				</p>
			</Empty>
		);
	return (
		<div className="p-4 grid gap-4 content-start">
			<h2 className="font-display text-lg font-semibold">Services elsewhere</h2>
			{list.data.services.map((s) => (
				<section key={s.id} className="border border-line rounded-md bg-surface p-4 grid gap-3">
					<div>
						<h3 className="font-display font-semibold">{s.name}</h3>
						<p className="text-soft break-all">{s.address}</p>
					</div>
					{s.proof !== "" && <Secret app={app} service={s} onDone={() => void list.refetch()} />}
					<Calls app={app} service={s} />
				</section>
			))}
		</div>
	);
}

/** The secret of a service, which is given and never shown. */
function Secret({ app, service, onDone }: { app: AppOut; service: ServiceOut; onDone: () => void }) {
	const [giving, setGiving] = useState(false);
	const [secret, setSecret] = useState("");
	const id = useId();
	const url = appUrl(app.id, `/services/${service.id}/secret`);
	const done = () => {
		setGiving(false);
		setSecret("");
		onDone();
	};
	const give = useMutation({ mutationFn: () => request<ServiceList>("PUT", url, { secret }), onSuccess: done });
	const forget = useMutation({ mutationFn: () => request<ServiceList>("DELETE", url), onSuccess: done });
	return (
		<div className="grid gap-2">
			<p>
				{service.secret ? (
					<>
						A secret is kept for this address, given by {service.secret.by}, {moment(service.secret.at)}. It is shown to
						the service, and to no one else.
					</>
				) : (
					<span className="text-berry font-medium">It asks for a secret, and none is kept for this address.</span>
				)}
			</p>
			{app.member !== "owner" ? (
				!service.secret && <p className="text-soft">Ask an owner of the workspace to give it.</p>
			) : giving ? (
				<form
					className="flex flex-wrap items-end gap-2"
					onSubmit={(e) => {
						e.preventDefault();
						give.mutate();
					}}
				>
					<div className="grid gap-1 w-80">
						<label className="font-medium" htmlFor={id}>
							The secret, as the service gave it to you
						</label>
						<input
							id={id}
							className="input"
							type="password"
							autoComplete="off"
							value={secret}
							onChange={(e) => setSecret(e.target.value)}
						/>
					</div>
					<button type="submit" className="btn btn-main" disabled={!secret || give.isPending}>
						Keep it
					</button>
					<button type="button" className="btn" onClick={() => setGiving(false)}>
						Cancel
					</button>
				</form>
			) : (
				<p className="flex gap-2">
					<button type="button" className="btn" onClick={() => setGiving(true)}>
						{service.secret ? "Give another one" : "Give the secret"}
					</button>
					{service.secret && (
						<button type="button" className="btn" disabled={forget.isPending} onClick={() => forget.mutate()}>
							Forget it
						</button>
					)}
				</p>
			)}
			{give.isError && <ErrorNote error={give.error} />}
			{forget.isError && <ErrorNote error={forget.error} />}
		</div>
	);
}

function Calls({ app, service }: { app: AppOut; service: ServiceOut }) {
	const [open, setOpen] = useState("");
	if (service.calls.length === 0)
		return <p className="text-soft">Say in the script what to ask it. Then try it here.</p>;
	const call = service.calls.find((c) => c.id === open);
	return (
		<div className="grid gap-3">
			<ul className="border border-line rounded-md divide-y divide-line">
				{service.calls.map((c) => (
					<li key={c.id}>
						<button
							type="button"
							className={`w-full text-left px-3 py-2 flex gap-3 ${c.id === open ? "bg-ground" : ""}`}
							aria-expanded={c.id === open}
							onClick={() => setOpen(c.id === open ? "" : c.id)}
						>
							<span className="font-medium">{c.name}</span>
							<span className="text-soft font-mono text-sm break-all">
								{c.method} {c.path}
							</span>
						</button>
					</li>
				))}
			</ul>
			{call && <TryCall key={call.id} app={app} call={call} />}
		</div>
	);
}

/** Tries a call, by its sample or for real, and takes values from what it answers. */
function TryCall({ app, call }: { app: AppOut; call: CallOut }) {
	const [values, setValues] = useState<{ [id: string]: string | boolean }>({});
	const change = useChange(app.id);
	const may = app.member !== "viewer";
	const trial = useMutation({
		mutationFn: (real: boolean) => request<Trial>("POST", appUrl(app.id, `/calls/${call.id}/trials`), { values, real }),
	});
	const answer = trial.data?.answer || call.sample || "";
	const whole = readJson(answer);
	const sends = call.method !== "GET";
	return (
		<div className="grid gap-3">
			{may && (
				<div className="flex flex-wrap items-end gap-3">
					{call.sends.map((s) => (
						<SentInput
							key={s.id}
							name={s.name}
							type={s.type}
							value={values[s.id]}
							onChange={(v) => setValues({ ...values, [s.id]: v })}
						/>
					))}
					{call.sample && (
						<button type="button" className="btn" disabled={trial.isPending} onClick={() => trial.mutate(false)}>
							<Play size={14} aria-hidden /> Try with the sample
						</button>
					)}
					<button type="button" className="btn btn-main" disabled={trial.isPending} onClick={() => trial.mutate(true)}>
						<Radio size={14} aria-hidden /> {trial.isPending ? "Asking …" : sends ? "Really send it" : "Really ask"}
					</button>
				</div>
			)}
			{may && sends && <p className="text-soft">If you really send it, the service does what it does for anybody.</p>}
			{trial.isError && <ErrorNote error={trial.error} />}
			{trial.data && <Tried of={trial.data} />}
			{change.isError && <ErrorNote error={change.error} />}
			{whole !== undefined && (
				<div className="grid gap-2">
					<div className="flex flex-wrap items-baseline gap-3">
						<h4 className="font-semibold">{trial.data?.answer ? "What it answered" : "The sample"}</h4>
						{may && trial.data?.answer && trial.data.answer !== call.sample && (
							<button
								type="button"
								className="link-button"
								onClick={() => change.mutate([{ kind: "set", of: call.id, values: { sample: answer } }])}
							>
								Keep it as the sample
							</button>
						)}
					</div>
					{may && <p className="text-soft">Click a value to take it: later steps can use it then.</p>}
					<Answer
						of={whole}
						taken={(p) => call.takes.some((t) => t.at === fromOf(call, p))}
						onTake={
							may
								? (p, v) =>
										change.mutate([
											{
												kind: "add",
												what: "taken",
												into: call.id,
												values: { name: nameOf(p), type: typeOf(v), from: fromOf(call, p) },
											},
										])
								: undefined
						}
						onRows={
							may && !call.rows ? (p) => change.mutate([{ kind: "set", of: call.id, values: { rows: p } }]) : undefined
						}
					/>
				</div>
			)}
			{trial.data?.answer && whole === undefined && (
				<pre className="whitespace-pre-wrap break-all border border-line rounded-md p-2">{trial.data.answer}</pre>
			)}
		</div>
	);
}

interface SentProps {
	name: string;
	type: string;
	value: string | boolean | undefined;
	onChange: (to: string | boolean) => void;
}

function SentInput({ name, type, value, onChange }: SentProps) {
	const id = useId();
	return (
		<div className="grid gap-1">
			<label className="font-medium" htmlFor={id}>
				{name}
			</label>
			{type === "yes/no" ? (
				<input id={id} type="checkbox" checked={value === true} onChange={(e) => onChange(e.target.checked)} />
			) : (
				<input
					id={id}
					className="input"
					type={type === "date" ? "date" : type === "time stamp" ? "datetime-local" : "text"}
					inputMode={type === "number" ? "decimal" : undefined}
					value={typeof value === "string" ? value : ""}
					onChange={(e) => onChange(e.target.value)}
				/>
			)}
		</div>
	);
}

/** What came of a trial. */
function Tried({ of }: { of: Trial }) {
	return (
		<div className="grid gap-2">
			<p className="font-mono text-sm break-all">
				{of.asked} {of.body}
			</p>
			{of.problem ? (
				<p className="note-bad" role="status">
					{of.problem}
				</p>
			) : (
				<p className="note-good" role="status">
					It answered in {of.millis} ms{of.count > 1 && `, with ${of.count} rows`}.
				</p>
			)}
			{of.names.length > 0 && of.rows.length > 0 && (
				<div className="overflow-x-auto">
					<table className="border border-line text-left">
						<thead>
							<tr>
								{of.names.map((n) => (
									<th key={n} className="px-3 py-1 border-b border-line font-semibold">
										{n}
									</th>
								))}
							</tr>
						</thead>
						<tbody>
							{of.rows.map((r, i) => (
								// biome-ignore lint/suspicious/noArrayIndexKey: rows of an answer have no other order
								<tr key={i}>
									{r.map((v, j) => (
										// biome-ignore lint/suspicious/noArrayIndexKey: its columns neither
										<td key={j} className="px-3 py-1">
											{v || <span className="text-soft">empty</span>}
										</td>
									))}
								</tr>
							))}
						</tbody>
					</table>
				</div>
			)}
		</div>
	);
}
