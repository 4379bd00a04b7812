/// <reference types="vitest/config" />
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// The server hands out everything under /static/, so that the interface needs no other host.
export default defineConfig({
  root: import.meta.dirname,
  base: "/static/",
  // What a component draws is remembered by the compiler: a changed value redraws what shows it, not the page.
  plugins: [react({ compiler: true }), tailwindcss()],
  // Into the server's package, so that whoever installs that has the interface too.
  build: { outDir: "../underhood_server/interface", emptyOutDir: true, chunkSizeWarningLimit: 800 },
  test: { setupFiles: "./src/test/setup.ts", maxWorkers: "100%", pool: "vmThreads", testTimeout: 20_000 },
  server: { proxy: { "/api": "http://127.0.0.1:8000" } },
});
