import babel from "@rolldown/plugin-babel";
import react, { reactCompilerPreset } from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  // The compiler keeps what a change does not touch, so that a drag renders only what moves.
  plugins: [react(), babel({ presets: [reactCompilerPreset()] })],
  build: { chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
});
