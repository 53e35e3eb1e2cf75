import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useDeferredValue, useState } from "react";
import { request } from "../../shared/api/client";
import { appUrl, type Group, type Scope, type Verdict } from "../api";
import { Conditions } from "./Conditions";
import { groupText } from "./plain";

const Editor = lazy(() => import("./Editor"));

interface ExpressionProps {
	id: string;
	app: string;
	label: string;
	scope: Scope;
	/** As whom the results are seen. */
	as?: string;
	value: string;
	offers?: { value: string; label: string }[];
	onChange: (v: string) => void;
}

/**
 * An expression, or a text with placeholders, checked while it is typed. A condition that is no
 * more than comparisons can be picked together instead; both ways show the same thing.
 */
export function ExpressionField({ id, app, label, scope, as, value, offers, onChange }: ExpressionProps) {
	const source = useDeferredValue(value);
	const verdict = useQuery({
		queryKey: ["expression", app, scope, as, source],
		queryFn: () => request<Verdict>("POST", appUrl(app, "/expression"), { source, scope, as }),
		placeholderData: keepPreviousData,
	});
	const v = verdict.data;
	const canPick = scope.want === "condition" && !scope.inner && (value === "" || Boolean(v?.plain));
	const [picking, setPicking] = useState<boolean | null>(null);
	// while somebody picks, what is picked is kept here: half a comparison is no expression yet
	const [group, setGroup] = useState<Group | null>(null);
	const plain = group ?? v?.plain ?? { any: false, rows: [] };
	const showPicker = picking ?? (scope.want === "condition" && canPick && v !== undefined);
	if (scope.want === "template") return <Template id={id} value={value} verdict={v} onChange={onChange} />;
	return (
		<div className="grid gap-1.5">
			{scope.want === "condition" && !scope.inner && (
				<div className="flex gap-3 text-soft">
					<button
						type="button"
						className="link-button disabled:opacity-50"
						disabled={!showPicker && !canPick}
						title={!showPicker && !canPick ? "This condition has more than comparisons, so it is shown as text." : ""}
						onClick={() => {
							setGroup(null);
							setPicking(!showPicker);
						}}
					>
						{showPicker ? "Write as an expression" : "Choose from lists"}
					</button>
				</div>
			)}
			{showPicker ? (
				<Conditions
					group={plain}
					names={v?.names ?? []}
					onChange={(g) => {
						setGroup(g);
						onChange(groupText(g, v?.names ?? []));
					}}
				/>
			) : (
				<Suspense fallback={<p className="text-soft">Loading …</p>}>
					<Editor id={id} label={label} value={value} verdict={v} onChange={onChange} />
				</Suspense>
			)}
			<Outcome verdict={v} value={value} />
			{offers && offers.length > 0 && (
				<div className="grid gap-1">
					{offers.map((o) => (
						<button
							key={o.value}
							type="button"
							className="setting justify-self-start"
							onClick={() => {
								setGroup(null);
								onChange(o.value);
							}}
						>
							{o.label}
						</button>
					))}
				</div>
			)}
		</div>
	);
}

/** What is wrong with an expression, or what it gives for some records. */
function Outcome({ verdict, value }: { verdict?: Verdict; value: string }) {
	if (!verdict || value === "") return null;
	if (verdict.error)
		return (
			<p role="status" className="text-berry">
				{verdict.error}
			</p>
		);
	return (
		<div role="status" className="text-soft">
			{verdict.type && <p>It gives {verdict.type}.</p>}
			{verdict.results.length > 0 && (
				<dl className="grid grid-cols-[auto_1fr] gap-x-3">
					{verdict.results.map((r) => (
						<div key={String(r.id)} className="contents">
							<dt className="truncate max-w-40">{String(r.label ?? "(no name)")}</dt>
							<dd className="truncate text-ink">{r.value === null ? "nothing" : String(r.value)}</dd>
						</div>
					))}
				</dl>
			)}
		</div>
	);
}

interface TemplateProps {
	id: string;
	value: string;
	verdict?: Verdict;
	onChange: (v: string) => void;
}

/** A text with placeholders. */
function Template({ id, value, verdict, onChange }: TemplateProps) {
	return (
		<div className="grid gap-1">
			<textarea
				id={id}
				className="input"
				rows={3}
				value={value}
				aria-invalid={Boolean(verdict?.error) || undefined}
				onChange={(e) => onChange(e.target.value)}
			/>
			{verdict?.error && (
				<p role="status" className="text-berry">
					{verdict.error}
				</p>
			)}
			<fieldset className="flex flex-wrap gap-1 max-h-24 overflow-auto" aria-label="Names that can be used">
				{verdict?.names
					?.filter((n) => !n.name.startsWith('"'))
					.map((n) => (
						<button
							key={n.name}
							type="button"
							title={n.help}
							className="font-mono text-xs border border-line rounded px-1.5 py-0.5 hover:border-(--pine)"
							onClick={() => onChange(`${value}{{ ${n.name} }}`)}
						>
							{n.name}
						</button>
					))}
			</fieldset>
		</div>
	);
}
