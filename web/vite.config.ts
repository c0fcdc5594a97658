import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const SERVER = "http://127.0.0.1:8765";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "../src/zembi/api/static", emptyOutDir: true, chunkSizeWarningLimit: 2000 },
  // Roles are slow to find in a document without a browser, and the tests share the machine with others: it is hangs that end.
  test: { testTimeout: 60_000 },
  // The server answers only its own page: what is asked for here is passed on as if it came from there.
  server: { proxy: { "/api": { target: SERVER, changeOrigin: true, headers: { origin: SERVER } } } },
});
