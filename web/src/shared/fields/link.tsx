import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import type { InputProps } from "./input";
import type { RecordOption } from "./values";

type LinkProps = Omit<InputProps, "search"> & {
	search: (words: string) => Promise<RecordOption[]>;
	onPick?: (o: RecordOption) => void;
};

/** Something that can be chosen: a record that was found, or a new one of the name that was typed. */
type Offer = { id: string; label: string; fresh?: boolean };

/**
 * Picks a record out of many by words of its label: a combobox, in which the arrows walk through what was found, Enter
 * takes it and Escape closes the list.
 */
export function LinkSearch(p: LinkProps) {
	const [words, setWords] = useState("");
	const [chosen, setChosen] = useState(p.label ?? "");
	const [open, setOpen] = useState(Boolean(p.autoFocus));
	const [at, setAt] = useState(-1);
	const list = useId();
	const found = useQuery({ queryKey: ["link", p.column.id, words], queryFn: () => p.search(words) });
	const offers: Offer[] = [...(found.data ?? [])];
	if (p.onNew && words.trim() && !found.data?.some((o) => o.label === words.trim()))
		offers.push({ id: "new", label: `Add “${words.trim()}” as a new record`, fresh: true });
	const pick = (o: RecordOption | null) => {
		setAt(-1);
		setWords("");
		if (p.onPick) {
			if (o) p.onPick(o);
			return;
		}
		setChosen(o?.label ?? "");
		setOpen(false);
		p.onChange(o?.id ?? null);
	};
	const take = async (o: Offer) => pick(o.fresh ? ((await p.onNew?.(words.trim())) ?? null) : o);
	const keys = (e: KeyboardEvent) => {
		if (e.key === "ArrowDown" || e.key === "ArrowUp") {
			setOpen(true);
			const next = at + (e.key === "ArrowDown" ? 1 : -1);
			setAt(offers.length === 0 ? -1 : (next + offers.length) % offers.length);
		} else if (e.key === "Enter" && open && offers[at]) void take(offers[at]);
		else if (e.key === "Escape" && open && at >= 0) setAt(-1);
		else return;
		e.preventDefault();
		e.stopPropagation();
	};
	return (
		<fieldset
			className="grid gap-1 min-w-0"
			aria-label={p.column.name}
			onFocus={() => setOpen(true)}
			onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && setOpen(false)}
		>
			{p.value !== null && (
				<div className="flex items-center justify-between gap-2">
					<span>{chosen || "Chosen"}</span>
					<button type="button" className="link-button" onClick={() => pick(null)}>
						Clear
					</button>
				</div>
			)}
			<input
				id={p.id}
				className="field-input"
				// biome-ignore lint/a11y/noAutofocus: only set where the person just asked for this control
				autoFocus={p.autoFocus}
				role="combobox"
				aria-autocomplete="list"
				aria-expanded={open}
				aria-controls={list}
				aria-activedescendant={open && at >= 0 ? `${list}-${at}` : undefined}
				aria-required={p.required || undefined}
				aria-invalid={p.invalid || undefined}
				aria-describedby={p.describedBy}
				autoComplete="off"
				placeholder="Type to search"
				value={words}
				onChange={(e) => {
					setWords(e.target.value);
					setAt(-1);
					setOpen(true);
				}}
				onKeyDown={keys}
			/>
			<div id={list} role="listbox" aria-label={p.column.name} className="field-options" hidden={!open}>
				{offers.map((o, i) => (
					<Option key={o.id} id={`${list}-${i}`} on={i === at} chosen={o.id === p.value} onTake={() => void take(o)}>
						{o.label}
					</Option>
				))}
			</div>
			{open && found.data?.length === 0 && (
				<p role="status" className="px-2 py-1 text-soft">
					No matches.
				</p>
			)}
		</fieldset>
	);
}

interface OptionProps {
	id: string;
	/** The arrows stand on it. */
	on: boolean;
	chosen: boolean;
	onTake: () => void;
	children: string;
}

function Option({ id, on, chosen, onTake, children }: OptionProps) {
	const ref = useRef<HTMLDivElement>(null);
	useEffect(() => {
		if (on) ref.current?.scrollIntoView({ block: "nearest" });
	}, [on]);
	return (
		// biome-ignore lint/a11y/useFocusableInteractive: the input keeps the focus and names the option at hand
		// biome-ignore lint/a11y/useKeyWithClickEvents: the keys are those of the input
		<div
			ref={ref}
			id={id}
			role="option"
			aria-selected={chosen}
			className={on ? "option-on" : ""}
			onMouseDown={(e) => e.preventDefault()}
			onClick={onTake}
		>
			{children}
		</div>
	);
}
