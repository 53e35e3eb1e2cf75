import { useEffect } from "react";

/** Names the window after what is shown in it, the nearest first. */
export function useTitle(...parts: string[]) {
	const title = parts.filter(Boolean).join(" – ");
	useEffect(() => {
		document.title = title;
	}, [title]);
}
