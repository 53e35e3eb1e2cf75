import { type Query, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { listen } from "../shared/api/live";
import { base, type Page } from "./place";

/**
 * A page that is being used to change a record stays as it is: its form holds what was there when it
 * was opened, and the server tells on sending whether somebody was faster.
 */
const changes = (q: Query) =>
	(q.state.data as Page | undefined)?.blocks?.some((b) => b.kind === "form" && b.revision > 0);

/** Reads the page anew when what it shows is written to. */
export function useLive() {
	const client = useQueryClient();
	useEffect(() => listen(client, `${base}/-/events`, (q) => !changes(q)), [client]);
}
