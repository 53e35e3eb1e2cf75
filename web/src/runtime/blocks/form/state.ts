import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { askForm, type Block, type FormState, type Form as Shown, type Where } from "../../place";
import { begun, type Filled, type Question, sentOf } from "./filled";

const pause = 180; // ms after which an answer counts as given for now

/** A value once it stays as it is for a moment, or is settled. */
function useSettled<T>(value: T): [T, (now: T) => void] {
	const [settled, setSettled] = useState(value);
	useEffect(() => {
		const timer = setTimeout(() => setSettled(value), pause);
		return () => clearTimeout(timer);
	}, [value]);
	return [settled, setSettled];
}

interface Held {
	questions: Map<string, Question>;
	blocks: Map<string, Block>;
}

function held(state: FormState, before?: Held): Held {
	return {
		questions: new Map([...(before?.questions ?? []), ...state.questions.map((q) => [q.id, q] as const)]),
		blocks: new Map([...(before?.blocks ?? []), ...state.blocks.map((b) => [b.id, b] as const)]),
	};
}

/**
 * How a form is with what is answered. The server decides; it is asked once somebody pauses, and what it says of answers
 * that are others by then is not taken for these.
 */
export function useFormState(form: Shown, where: Where, filled: Filled, reviewing: boolean) {
	const [all, setAll] = useState(() => held(form.state));
	const now = useRef(form.state);
	const sent = JSON.stringify(sentOf(form, now.current, [...all.questions.values()], filled));
	const [settled, settle] = useSettled(sent);
	const [first] = useState(() => JSON.stringify(sentOf(form, form.state, form.state.questions, begun(form))));
	const atFirst = !reviewing && settled === first;
	const asking = (what: string, review: boolean) => ({
		queryKey: ["form", form.id, where, what, review],
		staleTime: Number.POSITIVE_INFINITY,
		queryFn: () =>
			askForm(form.id, where, { ...JSON.parse(what), have: [...all.questions.keys(), ...all.blocks.keys()], review }),
	});
	const asked = useQuery({
		...asking(settled, reviewing),
		enabled: (form.live || reviewing) && !atFirst,
		placeholderData: (before) => before,
	});
	useEffect(() => {
		if (asked.data && asked.data.questions.length + asked.data.blocks.length > 0) {
			const came = asked.data;
			setAll((before) => held(came, before));
		}
	}, [asked.data]);
	useEffect(() => setAll((before) => held(form.state, before)), [form.state]); // read anew, as something changed
	const client = useQueryClient();
	/** How it is with the answers as they are, without waiting for a pause. */
	const ask = async () => {
		const got = await client.fetchQuery(asking(sent, false));
		settle(sent);
		return got;
	};
	const state = ((form.live || reviewing) && !atFirst && asked.data) || form.state;
	now.current = state;
	const known = held(state, all); // also what came just now
	const current = settled === sent && (atFirst || (!asked.isPlaceholderData && !asked.isFetching));
	return { state, current, questions: [...known.questions.values()], blocks: known.blocks, ask };
}
