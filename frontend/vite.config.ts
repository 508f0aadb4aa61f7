import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [tailwindcss()],
  esbuild: { jsx: "automatic" },
  build: { outDir: "../src/low_tide/web/static", emptyOutDir: true, modulePreload: { polyfill: false } },
  server: { proxy: { "/api": "http://127.0.0.1:8170" } },
});
