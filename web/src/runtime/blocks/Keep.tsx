import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { Problem, wordsOf } from "../../shared/api/client";
import { ValueInput } from "../../shared/fields/input";
import type { Value } from "../../shared/fields/values";
import { addressOf, keepValues } from "../place";
import type { BlockProps } from ".";

type Values = { [id: string]: Value };

/** Asks for values that are kept, shows what is kept now, and forgets it. */
export default function Keep(props: BlockProps<"keep">) {
	return <Asked key={JSON.stringify(props.block.kept.map((k) => k.value))} {...props} />;
}

function Asked({ block }: BlockProps<"keep">) {
	const start = Object.fromEntries(block.kept.map((k) => [k.column.id, (k.value ?? null) as Value]));
	const [values, setValues] = useState<Values>(start);
	const client = useQueryClient();
	const navigate = useNavigate();
	const keep = useMutation({
		mutationFn: keepValues,
		onSuccess: async (_, sent) => {
			await client.invalidateQueries();
			if (block.to && Object.values(sent).some((v) => v !== null)) navigate(addressOf(block.to));
		},
	});
	const wrong = new Map((keep.error instanceof Problem ? keep.error.mistakes : []).map((m) => [m.location, m.message]));
	const submit = (e: FormEvent) => {
		e.preventDefault();
		keep.mutate(values);
	};
	const any = block.kept.some((k) => k.value !== null && k.value !== undefined);
	return (
		<form className="card keep" onSubmit={submit} noValidate>
			{block.kept.map((k) => {
				const id = `${block.id}-${k.column.id}`;
				const mistake = wrong.get(k.column.id);
				return (
					<div key={k.column.id} className="keep-field">
						<label htmlFor={id}>{k.column.name}</label>
						<ValueInput
							id={id}
							column={k.column}
							value={values[k.column.id] ?? null}
							invalid={mistake !== undefined}
							describedBy={mistake ? `${id}-wrong` : undefined}
							onChange={(v) => setValues({ ...values, [k.column.id]: v })}
						/>
						{mistake && (
							<p id={`${id}-wrong`} role="alert" className="text-berry text-sm">
								{mistake}
							</p>
						)}
					</div>
				);
			})}
			<p className="keep-acts">
				<button type="submit" className="button button-main" disabled={keep.isPending}>
					{block.submit || "Keep"}
				</button>
				{any && (
					<button
						type="button"
						className="text-link"
						onClick={() => keep.mutate(Object.fromEntries(block.kept.map((k) => [k.column.id, null])))}
					>
						Forget it
					</button>
				)}
			</p>
			{keep.isError && wrong.size === 0 && (
				<p role="alert" className="note note-bad">
					{wordsOf(keep.error)}
				</p>
			)}
		</form>
	);
}
