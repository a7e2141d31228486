import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "../src/jostle/web", emptyOutDir: true, manifest: "manifest.json" },
  css: { modules: { localsConvention: "camelCase", generateScopedName: "[local]_[hash:base64:5]" } },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
});
