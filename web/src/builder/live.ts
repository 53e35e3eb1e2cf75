import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { listen } from "../shared/api/live";
import { appUrl } from "./api";

/** Reads what is shown of an app anew when somebody else, or a run in the background, wrote to it. */
export function useLive(app: string) {
	const client = useQueryClient();
	useEffect(
		() => listen(client, appUrl(app, "/events"), (q) => q.queryKey[0] === "app" && q.queryKey[1] === app),
		[app, client],
	);
}
