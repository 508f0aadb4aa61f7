import tailwindcss from "@tailwindcss/vite";
import { defineConfig, type UserConfig } from "vite";

/** "use client" marks in packages mean nothing to a page without a server side. */
const onwarn: NonNullable<NonNullable<UserConfig["build"]>["rollupOptions"]>["onwarn"] = (warning, warn) => {
  if (warning.code !== "MODULE_LEVEL_DIRECTIVE") warn(warning);
};

export default defineConfig({
  plugins: [tailwindcss()],
  esbuild: { jsx: "automatic" },
  build: {
    outDir: "../src/low_tide/web/static",
    emptyOutDir: true,
    modulePreload: { polyfill: false },
    rollupOptions: { onwarn },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8170" } },
});
