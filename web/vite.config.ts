import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const SERVER = "http://127.0.0.1:8765";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "../src/zembi/api/static", emptyOutDir: true, chunkSizeWarningLimit: 2000 },
  // The server answers only its own page: what is asked for here is passed on as if it came from there.
  server: { proxy: { "/api": { target: SERVER, changeOrigin: true, headers: { origin: SERVER } } } },
});
