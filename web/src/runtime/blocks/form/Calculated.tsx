import { type ComponentType, createContext, lazy, Suspense, useContext, useState } from "react";
import { numberText, valueText } from "../../../shared/fields/values";
import { type BlockOf, type FormState, onStage } from "../../place";
import type { Filled } from "./filled";
import { resultText } from "./resultText";
import type { Place } from "./steps";
import type { Filling } from "./use";
import "./calculated.css";

const Chart = lazy(() => import("../charts").then((m) => ({ default: m.Chart })));
const Compared = lazy(() => import("./Compared"));

/** Answers that somebody keeps aside, with how the form was with them. */
export interface Scenario {
	name: string;
	n: number;
	filled: Filled;
	state: FormState;
}

interface CalculatedProps {
	filling: Filling;
	places: Place[];
	View: ComponentType<{ filling: Filling; place: Place }>;
	/** The scenarios, which stay while somebody is at another step. */
	kept: Scenario[];
	setKept: (to: Scenario[]) => void;
}

/** Whether it is told how results come about, where that is told of all together. */
const Telling = createContext<boolean | undefined>(undefined);

/** A calculator: what it asks on one side, and what it calculates on the other. */
export default function Calculated({ filling, places, View, kept, setKept }: CalculatedProps) {
	const [told, setTold] = useState(false);
	const { blocks, form, filled, state, current } = filling;
	const is = (p: Place, ...kinds: string[]) => kinds.includes(blocks.get(p.id)?.kind ?? "");
	const results = places.filter((p) => is(p, "result"));
	const charts = places.filter((p) => is(p, "course"));
	const keep = () => {
		const n = 1 + Math.max(0, ...kept.map((s) => s.n));
		setKept([...kept, { name: `Scenario ${n}`, n, filled, state }]);
	};
	return (
		<div className="calculated">
			<div className="calculated-asks">
				{places
					.filter((p) => !is(p, "result", "course"))
					.map((p) => (
						<View key={p.id} filling={filling} place={p} />
					))}
			</div>
			<section className="calculated-results" aria-label="Results">
				<Telling value={told}>
					{results.map((p) => (
						<View key={p.id} filling={filling} place={p} />
					))}
				</Telling>
				{results.some((p) => state.parts[p.id]?.result?.names) && (
					<button
						type="button"
						className="text-link justify-self-start"
						aria-expanded={told}
						onClick={() => setTold(!told)}
					>
						{told ? "Hide how it is calculated" : "How it is calculated"}
					</button>
				)}
				{form.compare && (
					<button
						type="button"
						className="button justify-self-start"
						disabled={!current || kept.length > 3}
						onClick={keep}
					>
						Keep as a scenario
					</button>
				)}
			</section>
			{kept.length > 0 && (
				<Suspense fallback={null}>
					<Compared filling={filling} kept={kept} setKept={setKept} />
				</Suspense>
			)}
			{charts.map((p) => {
				const block = blocks.get(p.id);
				return block?.kind === "course" && state.parts[p.id] ? (
					<CourseView key={p.id} filling={filling} block={block} kept={kept} />
				) : null;
			})}
		</div>
	);
}

type Told = NonNullable<NonNullable<FormState["parts"][string]["result"]>["names"]>[number];

/** A result: its value, what is said of it, and how it comes about. */
export function ResultView({ filling, block }: { filling: Filling; block: BlockOf<"result"> }) {
	const result = filling.state.parts[block.id]?.result;
	const telling = useContext(Telling);
	if (!result) return null;
	const text = resultText(block, filling.state.parts[block.id]);
	const how = (
		<>
			<p>
				<Formula told={result.names ?? []} />
			</p>
			{result.values && (
				<p>
					<Formula told={result.values} /> = {text}
				</p>
			)}
		</>
	);
	return (
		<div className="result" data-tone={result.tone} data-block={onStage ? block.id : undefined}>
			<p className="result-line">
				<span className="result-name" id={`${block.id}-name`}>
					{block.column.name}
				</span>
				<output className="result-value" aria-labelledby={`${block.id}-name`} aria-busy={!filling.current}>
					{text || "–"}
				</output>
			</p>
			{result.reason && <p className="text-soft text-sm">{result.reason}</p>}
			{result.says && <p className="result-says">{result.says}</p>}
			{result.names && telling === undefined && (
				<details className="result-how">
					<summary>How it is calculated</summary>
					{how}
				</details>
			)}
			{telling && result.names && <div className="result-how">{how}</div>}
		</div>
	);
}

function Formula({ told }: { told: Told[] }) {
	return told.map((t) => t.words ?? toldText(t)).join("");
}

/** A value in a formula, as what holds it is written. */
function toldText({ value, column }: Told): string {
	if (!column) return String(value ?? "");
	return column.kind === "number" ? numberText(String(value), column) : valueText({ [column.id]: value }, column);
}

/** A chart of results, with those that were kept aside. */
export function CourseView({
	filling,
	block,
	kept = [],
}: {
	filling: Filling;
	block: BlockOf<"course">;
	kept?: Scenario[];
}) {
	const chart = filling.state.parts[block.id]?.chart;
	if (!chart) return null;
	const all = [{ name: "Now", state: filling.state }, ...kept];
	const series = all.flatMap(({ name, state }, i) =>
		(state.parts[block.id]?.chart?.series ?? []).map((s) => {
			const of = chart.measures.find((m) => m.id === s.measure)?.name;
			return { ...s, part: { key: String(i), label: chart.measures.length > 1 ? `${of}, ${name}` : name } };
		}),
	);
	return (
		<div data-block={onStage ? block.id : undefined} className="calculated-chart">
			<Suspense fallback={<div className="card empty" aria-busy="true" />}>
				<Chart block={kept.length > 0 ? { ...chart, series } : chart} where={filling.where} alone />
			</Suspense>
		</div>
	);
}
