import "@fontsource-variable/bricolage-grotesque";
import "@fontsource-variable/instrument-sans";
import "./runtime.css";
import "./layout.css";
import "./print.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { Problem } from "../shared/api/client";
import { InvitationPage, Profile, Reset, SignIn, SignUp, Unsubscribe, UseLink } from "./gate";
import { Loading, PageView } from "./PageView";
import { base, onStage } from "./place";

/** A form by itself, which is seldom what somebody comes for. */
const Standalone = lazy(() => import("./Standalone"));

const client = new QueryClient({
	defaultOptions: {
		mutations: { networkMode: "always" }, // without a network it is told at once that nothing was saved
		queries: {
			networkMode: "always",
			retry: (count, error) => !(error instanceof Problem && error.status !== 0) && count < 2,
			refetchOnWindowFocus: false,
			staleTime: 5_000,
		},
	},
});

const root = document.getElementById("root");
if (root) {
	createRoot(root).render(
		<StrictMode>
			<QueryClientProvider client={client}>
				<BrowserRouter basename={base}>
					<Suspense fallback={<Loading />}>
						<Routes>
							<Route path="/" element={<PageView />} />
							<Route path="/~/sign-in" element={<SignIn />} />
							<Route path="/~/link" element={<UseLink />} />
							<Route path="/~/sign-up" element={<SignUp />} />
							<Route path="/~/invitation" element={<InvitationPage />} />
							<Route path="/~/unsubscribe" element={<Unsubscribe />} />
							<Route path="/~/reset" element={<Reset />} />
							<Route path="/~/me" element={<Profile />} />
							<Route path="/~/form/:name" element={<Standalone />} />
							<Route path="/:path" element={<PageView />} />
							<Route path="/:path/:record" element={<PageView />} />
						</Routes>
					</Suspense>
				</BrowserRouter>
			</QueryClientProvider>
		</StrictMode>,
	);
}

// where there is no network, the app says so; what pages show is never kept
if (!onStage && base.startsWith("/a/") && "serviceWorker" in navigator)
	navigator.serviceWorker.register(`${base}/-/offline.js`, { scope: `${base}/` }).catch(() => {
		// a browser that keeps nothing works all the same
	});
