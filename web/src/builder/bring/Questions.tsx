import { useId } from "react";
import type { ColumnPlan, Proposal } from "../api";
import { answered, answerOf } from "./types";

interface Asked {
	file: string;
	columns: string[];
	first: ColumnPlan;
}

/** What is asked: the same of all columns of a file once. */
function asked(p: Proposal): Asked[] {
	const out: Asked[] = [];
	for (const s of p.sheets) {
		if (s.mode === "ignore") continue;
		for (const c of s.columns) {
			if (!c.ask || c.skip) continue;
			const about = c.ask.about;
			const same = about === "link" ? undefined : out.find((q) => q.file === s.file && q.first.ask?.about === about);
			if (same) same.columns.push(c.name);
			else out.push({ file: s.file, columns: [c.name], first: c });
		}
	}
	return out;
}

/** What the files do not tell, with what is taken for now. */
export function Questions({ proposal, onChange }: { proposal: Proposal; onChange: (p: Proposal) => void }) {
	const list = asked(proposal);
	if (list.length === 0) return null;
	const say = (q: Asked, value: string) => {
		const about = q.first.ask?.about ?? "";
		const of = (c: ColumnPlan) =>
			about === "link" ? c.header === q.first.header && c.ask?.about === about : c.ask?.about === about;
		onChange({
			...proposal,
			sheets: proposal.sheets.map((s) =>
				s.file === q.file ? { ...s, columns: s.columns.map((c) => (of(c) ? answered(c, about, value) : c)) } : s,
			),
		});
	};
	return (
		<section aria-label="Questions" className="grid gap-2">
			<h3 className="font-medium">The files don’t tell. Please choose:</h3>
			{list.map((q) => (
				<Question key={`${q.file} ${q.first.ask?.about} ${q.columns[0]}`} q={q} onSay={(v) => say(q, v)} />
			))}
		</section>
	);
}

function Question({ q, onSay }: { q: Asked; onSay: (value: string) => void }) {
	const name = useId();
	const ask = q.first.ask;
	if (!ask) return null;
	const now = answerOf(q.first);
	return (
		<fieldset className="note-care flex flex-wrap items-center gap-x-4 gap-y-1">
			<legend className="sr-only">{`${ask.text} ${q.columns.join(", ")}`}</legend>
			<span aria-hidden="true">
				<b>{ask.text}</b> <span className="text-soft">{`${q.columns.join(", ")} in ${q.file}`}</span>
			</span>
			{ask.answers.map((a) => {
				const value = a.value || a.text;
				return (
					<label key={value} className="flex items-center gap-1.5">
						<input type="radio" name={name} checked={value === now} onChange={() => onSay(value)} />
						{a.text}
					</label>
				);
			})}
		</fieldset>
	);
}
