import { autocompletion, type CompletionContext, completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { bracketMatching, HighlightStyle, StreamLanguage, syntaxHighlighting } from "@codemirror/language";
import { Compartment, EditorState, type Range, StateEffect, StateField } from "@codemirror/state";
import { Decoration, type DecorationSet, EditorView, keymap } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { Verdict } from "../api";
import "./editor.css";

interface EditorProps {
	id: string;
	label: string;
	value: string;
	verdict?: Verdict;
	onChange: (v: string) => void;
}

/** The colours of the language: texts, numbers, functions, words and names. */
const language = StreamLanguage.define({
	token(stream) {
		if (stream.match(/^"(?:[^"]|"")*"?/)) return "string";
		if (stream.match(/^\[[^\]]*\]?/)) return "variableName";
		if (stream.match(/^\d+(\.\d+)?/)) return "number";
		if (stream.match(/^(?:and|or|not|true|false|empty)\b/i)) return "keyword";
		if (stream.match(/^[A-Za-z_]\w*(?=\s*\()/)) return "variableName.function";
		if (stream.match(/^[\p{L}_][\p{L}\p{N}_]*/u)) return "variableName";
		stream.next();
		return null;
	},
});

const colours = syntaxHighlighting(
	HighlightStyle.define([
		{ tag: tags.string, color: "var(--resin)" },
		{ tag: tags.number, color: "var(--lake)" },
		{ tag: tags.keyword, color: "var(--berry)" },
		{ tag: tags.function(tags.variableName), color: "var(--pine)", fontWeight: "600" },
		{ tag: tags.variableName, color: "var(--ink)" },
	]),
);

const setMistake = StateEffect.define<{ from: number; to: number } | null>();
const mistakes = StateField.define<DecorationSet>({
	create: () => Decoration.none,
	update(marks, tr) {
		let next = marks.map(tr.changes);
		for (const e of tr.effects) {
			if (!e.is(setMistake)) continue;
			const list: Range<Decoration>[] = [];
			if (e.value && e.value.to > e.value.from)
				list.push(Decoration.mark({ class: "cm-mistake" }).range(e.value.from, e.value.to));
			next = Decoration.set(list);
		}
		return next;
	},
	provide: (f) => EditorView.decorations.from(f),
});

function complete(verdict: () => Verdict | undefined) {
	return (context: CompletionContext) => {
		const word = context.matchBefore(/"?[\p{L}_][\p{L}\p{N}_. ]*|"/u);
		if (!word && !context.explicit) return null;
		const v = verdict();
		return {
			from: word?.from ?? context.pos,
			options: [
				...(v?.names ?? []).map((n) => ({ label: n.name, detail: n.help, type: "variable", boost: 1 })),
				...(v?.calls ?? []).map((f) => ({
					label: f.name,
					apply: `${f.name}(`,
					detail: f.usage.slice(f.name.length),
					info: f.help,
					type: "function",
				})),
			],
			validFor: /^"?[\p{L}\p{N}_. ]*$/u,
		};
	};
}

/** The server counts bytes of UTF-8, the editor UTF-16 units. */
function unitsOf(text: string, bytes: number): number {
	return new TextDecoder().decode(new TextEncoder().encode(text).slice(0, bytes)).length;
}

/** Where an expression is written. */
export default function Editor({ id, label, value, verdict, onChange }: EditorProps) {
	const place = useRef<HTMLDivElement>(null);
	const view = useRef<EditorView | null>(null);
	const latest = useRef({ verdict, onChange, value });
	latest.current = { verdict, onChange, value };
	useEffect(() => {
		if (!place.current) return;
		const attributes = new Compartment();
		view.current = new EditorView({
			parent: place.current,
			state: EditorState.create({
				doc: latest.current.value,
				extensions: [
					history(),
					bracketMatching(),
					language,
					colours,
					mistakes,
					autocompletion({ override: [complete(() => latest.current.verdict)], icons: false }),
					// Enter and Tab leave the field unless something is being completed
					keymap.of([...completionKeymap, ...historyKeymap, ...defaultKeymap.filter((k) => k.key !== "Mod-Enter")]),
					EditorView.lineWrapping,
					attributes.of(
						EditorView.contentAttributes.of({ id, "aria-label": label, spellcheck: "false", autocapitalize: "off" }),
					),
					EditorView.updateListener.of((u) => {
						if (u.docChanged) latest.current.onChange(u.state.doc.toString());
					}),
				],
			}),
		});
		return () => view.current?.destroy();
	}, [id, label]);
	useEffect(() => {
		const v = view.current;
		if (v && v.state.doc.toString() !== value)
			v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: value } });
	}, [value]);
	useEffect(() => {
		const v = view.current;
		if (!v) return;
		const text = v.state.doc.toString();
		const at = verdict?.error
			? { from: unitsOf(text, verdict.start), to: Math.min(text.length, unitsOf(text, verdict.end)) }
			: null;
		v.dispatch({ effects: setMistake.of(at) });
	}, [verdict]);
	return <div ref={place} className="expression-editor" />;
}
