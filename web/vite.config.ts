import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
	plugins: [react(), tailwindcss()],
	build: {
		assetsInlineLimit: 0,
		emptyOutDir: true,
		rolldownOptions: { input: { builder: "builder.html", app: "app.html" } },
	},
	test: { environment: "happy-dom" },
});
