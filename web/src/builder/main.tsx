import "@fontsource-variable/bricolage-grotesque";
import "@fontsource-variable/instrument-sans";
import "@fontsource-variable/jetbrains-mono";
import "./builder.css";
import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { Toaster } from "sonner";
import { Problem } from "../shared/api/client";
import { Account } from "./account/Account";
import { Join } from "./account/Join";
import { SignedIn } from "./account/SignIn";
import { Team } from "./account/Team";
import { DemoMailbox } from "./Mailbox";
import { startMode } from "./mode";
import { Studio } from "./Studio";
import { Workshop } from "./Workshop";

startMode();

const client: QueryClient = new QueryClient({
	// a session that ran out shows the way in again
	queryCache: new QueryCache({
		onError: (e) =>
			e instanceof Problem && e.status === 401 && void client.invalidateQueries({ queryKey: ["session"] }),
	}),
	defaultOptions: {
		mutations: { networkMode: "always" }, // without a network it is told at once that nothing was saved
		queries: {
			networkMode: "always",
			retry: (count, error) => !(error instanceof Problem && error.status !== 0) && count < 2,
			staleTime: 2_000,
		},
	},
});

const root = document.getElementById("root");
if (root) {
	createRoot(root).render(
		<StrictMode>
			<QueryClientProvider client={client}>
				<BrowserRouter useTransitions={false}>
					<Routes>
						<Route path="/mailbox" element={<DemoMailbox />} />
						<Route path="/join" element={<Join />} />
						<Route element={<SignedIn />}>
							<Route path="/" element={<Workshop />} />
							<Route path="/account" element={<Account />} />
							<Route path="/team" element={<Team />} />
							<Route path="/apps/:app" element={<Navigate to="data" replace />} />
							<Route path="/apps/:app/:stop" element={<Studio />} />
						</Route>
						<Route path="*" element={<Navigate to="/" replace />} />
					</Routes>
				</BrowserRouter>
				<Toaster
					position="bottom-center"
					toastOptions={{
						duration: 5000,
						style: {
							fontFamily: '"Instrument Sans Variable", sans-serif',
							background: "var(--surface)",
							color: "var(--ink)",
							borderColor: "var(--edge)",
						},
					}}
				/>
			</QueryClientProvider>
		</StrictMode>,
	);
}
