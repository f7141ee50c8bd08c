import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
  // typing into forms takes its time on a busy machine
  test: {
    testTimeout: 20_000,
    setupFiles: "src/tests/clock.ts",
    // Node would take the CommonJS build of this library, which requires three while that is being
    // imported as a module: whether that works is a race
    alias: { "@react-three/fiber": "@react-three/fiber/dist/react-three-fiber.esm.js" },
    server: { deps: { inline: ["@react-three/fiber"] } },
  },
  build: { chunkSizeWarningLimit: 1500 },
});
