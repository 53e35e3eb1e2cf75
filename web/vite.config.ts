import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";
import { compressed } from "./scripts/compressed.mjs";

/** Values and what they are entered in: nearly every page has both. */
const fields = /src\/shared\/fields\/(input|values)\.tsx$/;
/** Lists, with their filters, which charts have, too. */
const lists = /src\/runtime\/blocks\/records\/(Records|Filters)\.tsx$/;
const vendor = /node_modules\/(react|react-dom|scheduler|react-router|@tanstack\/(react-query|query-core))\//;

export default defineConfig({
	plugins: [react(), tailwindcss(), compressed()],
	build: {
		assetsInlineLimit: 0,
		emptyOutDir: true,
		rolldownOptions: {
			input: { builder: "builder.html", app: "app.html" },
			// what both are made with stays the same between versions, and in the caches of browsers
			output: {
				codeSplitting: {
					groups: [
						{ name: "vendor", test: vendor },
						{ name: "fields", test: fields },
						{ name: "Records", test: lists },
					],
				},
			},
		},
	},
	test: { environment: "happy-dom" },
});
