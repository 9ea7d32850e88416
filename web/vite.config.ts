import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const server = `http://127.0.0.1:${process.env.TARN_PORT ?? "8000"}`;

export default defineConfig(({ command }) => ({
  base: command === "build" ? "/static/" : "/",
  plugins: [react(), tailwindcss()],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 560, target: "es2022" },
  server: { port: 5173, proxy: { "/api": server }, fs: { allow: [".."] } },
  test: {
    environment: "jsdom",
    testTimeout: 60_000,
    include: ["src/**/*.test.{ts,tsx}"],
    setupFiles: ["src/parts/testing.setup.ts"],
  },
}));
