import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Check, Flag, X } from "lucide-react";
import { useId, useState } from "react";
import { request } from "../../shared/api/client";
import { type AppOut, appUrl, type Rehearsal, useOfApp, useRefresh, type WantList } from "../api";
import { ErrorNote } from "../ui";

interface Outcome {
	key: string;
	text: string;
}

/** All that came of a rehearsal, with what came of the workflows that it set off, by the keys of the server. */
export function outcomesOf(of: Rehearsal): Outcome[] {
	if (!of.starts) return [{ key: "end not begun", text: `“${of.name}” does not start.` }];
	const then = of.followed.flatMap((f) =>
		outcomesOf(f).map((o) => ({ key: `then ${f.workflow} ${o.key}`, text: `Then “${f.name}”: ${o.text}` })),
	);
	return [...of.outcomes, ...then];
}

/** Keeps a rehearsal as an expectation, which stops a publish that it does not hold for. */
export function KeepAsWant({ app, of, asked }: { app: AppOut; of: Rehearsal; asked: object }) {
	const [open, setOpen] = useState(false);
	const all = outcomesOf(of);
	const [without, setWithout] = useState<string[]>([]);
	const [name, setName] = useState("");
	const id = useId();
	const refresh = useRefresh(app.id);
	const client = useQueryClient();
	const keep = useMutation({
		mutationFn: () =>
			request<WantList>("POST", appUrl(app.id, `/workflows/${of.workflow}/expectations`), {
				name: name.trim(),
				asked,
				keys: all.map((o) => o.key).filter((k) => !without.includes(k)),
			}),
		onSuccess: async () => {
			setOpen(false);
			setName("");
			await Promise.all([refresh(), client.invalidateQueries({ queryKey: ["app", app.id] })]);
		},
	});
	if (!open)
		return (
			<button type="button" className="btn justify-self-start" onClick={() => setOpen(true)}>
				<Flag size={14} aria-hidden /> Keep it as an expectation …
			</button>
		);
	return (
		<form
			className="border border-line rounded-md bg-surface p-4 grid gap-3 max-w-3xl"
			onSubmit={(e) => {
				e.preventDefault();
				keep.mutate();
			}}
		>
			<p>
				It is rehearsed again with the same record before each publish. What you choose here has to come of it;
				otherwise nothing is published.
			</p>
			<div className="grid gap-1">
				<label className="font-medium" htmlFor={id}>
					Name, such as “Managers are told”
				</label>
				<input id={id} className="input w-96" maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
			</div>
			<ul className="grid gap-1">
				{all.map((o) => (
					<li key={o.key}>
						<label className="flex items-baseline gap-2">
							<input
								type="checkbox"
								checked={!without.includes(o.key)}
								onChange={(e) =>
									setWithout(e.target.checked ? without.filter((k) => k !== o.key) : [...without, o.key])
								}
							/>
							{o.text}
						</label>
					</li>
				))}
			</ul>
			<p className="text-soft">Leave out what is another each day, such as dates and running numbers.</p>
			{keep.isError && <ErrorNote error={keep.error} />}
			<p className="flex gap-2">
				<button type="submit" className="btn btn-main" disabled={!name.trim() || keep.isPending}>
					Keep it
				</button>
				<button type="button" className="btn" onClick={() => setOpen(false)}>
					Cancel
				</button>
			</p>
		</form>
	);
}

/** What is expected of a workflow, and whether it is so. */
export function Wants({ app, flow }: { app: AppOut; flow: string }) {
	const list = useOfApp<WantList>(app.id, "/workflow-expectations", {}, app.member !== "viewer");
	const forget = useMutation({
		mutationFn: (id: string) => request<WantList>("DELETE", appUrl(app.id, `/workflow-expectations/${id}`)),
		onSuccess: () => list.refetch(),
	});
	const own = list.data?.wants.filter((w) => w.workflow === flow) ?? [];
	if (list.isError) return <ErrorNote error={list.error} />;
	if (own.length === 0) return null;
	return (
		<section className="grid gap-2">
			<h3 className="font-display font-semibold">Expected of it</h3>
			<ul className="border border-line rounded-md bg-surface divide-y divide-line max-w-3xl">
				{own.map((w) => (
					<li key={w.id} className="px-3 py-2 flex gap-3 items-baseline">
						{w.met ? (
							<Check size={14} className="text-pine" aria-label="It is so" />
						) : (
							<X size={14} className="text-berry" aria-label="It is not so" />
						)}
						<span className="flex-1 min-w-0">
							<span className="font-medium">{w.name}</span>
							{!w.met && <span className="block text-berry">Not met: {w.problem}</span>}
							{w.met && <span className="block text-soft">{w.wants.map((o) => o.text).join(" ")}</span>}
						</span>
						<button
							type="button"
							className="btn"
							aria-label={`Remove the expectation ${w.name}`}
							disabled={forget.isPending}
							onClick={() => forget.mutate(w.id)}
						>
							Remove
						</button>
					</li>
				))}
			</ul>
			{forget.isError && <ErrorNote error={forget.error} />}
		</section>
	);
}
