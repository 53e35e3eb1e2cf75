import { useMutation, useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { lazy, Suspense, useEffect, useState } from "react";
import { request, wordsOf } from "../../../shared/api/client";
import type { components } from "../../../shared/api/runtime.gen";
import { type BlockOf, base, type Where } from "../../place";
import { daysText } from "./told";
import "./badge.css";

const Icon = lazy(() => import("../../icons"));

/** The picture of a badge. */
export function BadgePicture({ name, size }: { name?: string; size: number }) {
	return (
		<Suspense>
			<Icon name={name || "star"} size={size} />
		</Suspense>
	);
}

type Celebrated = components["schemas"]["Celebrated"];

/** The badge of a figure. What is due is asked for once it is seen; what that gives for the first time is celebrated. */
export function FigureBadge({ block, where }: { block: BlockOf<"figure">; where: Where }) {
	const client = useQueryClient();
	const [won, setWon] = useState<Celebrated>();
	const { mutate, error } = useMutation({
		mutationFn: () =>
			request<Celebrated>("POST", `${base}/-/badges/${block.id}`, {
				path: where.path,
				record: where.record || undefined,
			}),
		onSuccess: (got) => {
			if (got.days.length > 0) setWon(got);
			return client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "form" });
		},
	});
	const due = Boolean(block.badge?.due);
	useEffect(() => {
		if (due) mutate();
	}, [due, mutate]);
	if (!block.badge) return null;
	return (
		<>
			<p className="figure-badge" data-won={block.badge.won}>
				<BadgePicture name={block.badge.picture} size={16} />
				{block.badge.won ? block.badge.name : `To be reached: ${block.badge.name}`}
			</p>
			{error && (
				<p role="alert" className="note">
					{wordsOf(error)}
				</p>
			)}
			{won && <Celebration won={won} onClose={() => setWon(undefined)} />}
		</>
	);
}

/** What somebody reached just now. */
function Celebration({ won, onClose }: { won: Celebrated; onClose: () => void }) {
	const days = won.days.filter((d) => d.from || d.to).map(daysText);
	return (
		<div className="celebration" role="status">
			<span className="celebration-picture">
				<BadgePicture name={won.picture} size={28} />
			</span>
			<span className="celebration-sparks" aria-hidden="true">
				{Array.from({ length: 12 }, (_, i) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: they are all alike, and stay in their order
					<i key={i} style={{ rotate: `${i * 30}deg` }} />
				))}
			</span>
			<p>
				<b>You reached the target.</b> The badge “{won.name}” is yours
				{days.length > 0 && `: ${days.join(", ")}`}.
			</p>
			<button type="button" className="icon-button" aria-label="Close" onClick={onClose}>
				<X size={16} aria-hidden />
			</button>
		</div>
	);
}
