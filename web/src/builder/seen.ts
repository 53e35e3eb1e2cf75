import type { AppOut, RoleOut } from "./api";

/** The role that is marked while the app is seen as somebody. */
export function roleOf(app: AppOut, as: string): RoleOut | undefined {
	const id = as === "visitor" ? "visitor" : as.split(".")[1];
	return app.roles?.find((r) => r.id === id);
}
