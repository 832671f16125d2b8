import babel from "@rolldown/plugin-babel";
import react, { reactCompilerPreset } from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  // The compiler keeps what a change does not touch, so that a drag renders only what moves.
  plugins: [react(), babel({ presets: [reactCompilerPreset()] })],
  test: {
    coverage: {
      include: ["src/**/*.ts"],
      exclude: ["src/api/schema.d.ts"],
      reporter: ["text-summary"],
    },
  },
  build: { chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
});
