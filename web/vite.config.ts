import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
  // typing into forms takes its time on a busy machine
  test: { testTimeout: 20_000, setupFiles: "src/tests/clock.ts" },
  build: { chunkSizeWarningLimit: 1500 },
});
