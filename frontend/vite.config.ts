import { svelte } from "@sveltejs/vite-plugin-svelte";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";

export default defineConfig({
  base: "/static/",
  plugins: [svelte(), tailwindcss()],
  build: { manifest: true, chunkSizeWarningLimit: 700, rollupOptions: { input: { main: "src/main.ts" } } },
});
