import type { Rehearsal } from "../api";
import { differences } from "./compare";
import { outcomesOf } from "./Wants";

/** What came of a rehearsal otherwise than of the one before it, as a whole and step by step. */
export function Compare({ before, now }: { before: Rehearsal; now: Rehearsal }) {
	const was = outcomesOf(before);
	const is = outcomesOf(now);
	const gone = was.filter((o) => !is.some((x) => x.key === o.key));
	const fresh = is.filter((o) => !was.some((x) => x.key === o.key));
	const steps = differences(before, now);
	return (
		<section className="border border-line rounded-md bg-surface p-4 grid gap-3">
			<h3 className="font-display font-semibold">Compared with the one before</h3>
			{gone.length + fresh.length + steps.length === 0 && <p>They are the same.</p>}
			{gone.length + fresh.length > 0 && (
				<ul className="grid gap-1">
					{gone.map((o) => (
						<li key={o.key}>
							<span className="text-soft">Before: </span>
							<s>{o.text}</s>
						</li>
					))}
					{fresh.map((o) => (
						<li key={o.key}>
							<span className="text-soft">Now: </span>
							<strong className="font-semibold">{o.text}</strong>
						</li>
					))}
				</ul>
			)}
			{steps.length > 0 && (
				<div className="overflow-x-auto">
					<table className="text-left w-full">
						<thead>
							<tr>
								<th className="py-1 pr-4 font-semibold">Step</th>
								<th className="py-1 pr-4 font-semibold">Before</th>
								<th className="py-1 font-semibold">Now</th>
							</tr>
						</thead>
						<tbody>
							{steps.map((d) => (
								<tr key={d.key} className="border-t border-line align-top">
									<td className="py-1 pr-4">
										<span className="line-clamp-2">{d.sentence}</span>
										{d.round && <span className="text-soft">round {d.round}</span>}
									</td>
									<td className="py-1 pr-4">{d.before ?? <i className="text-soft">not done</i>}</td>
									<td className="py-1">{d.now ?? <i className="text-soft">not done</i>}</td>
								</tr>
							))}
						</tbody>
					</table>
				</div>
			)}
		</section>
	);
}
