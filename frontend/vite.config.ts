import babel from "@rolldown/plugin-babel";
import react, { reactCompilerPreset } from "@vitejs/plugin-react";
import { compression } from "vite-plugin-compression2";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [
    react(),
    // The compiler keeps what a change does not touch, so that a drag renders only what moves.
    babel({ presets: [reactCompilerPreset()] }),
    // Beside each file that can be made smaller; fonts are compressed as they come.
    compression({ algorithms: ["brotliCompress"], include: /\.(js|css|svg)$/, threshold: 1000 }),
  ],
  test: {
    coverage: {
      include: ["src/**/*.ts"],
      exclude: ["src/api/schema.d.ts"],
      reporter: ["text-summary"],
    },
  },
  // The manifest says which file needs which: tests/web/test_pages.py holds their sizes.
  build: {
    manifest: true,
    assetsInlineLimit: 0,
    // What nearly every page needs comes in one piece: many small ones compress worse (4 kB of 183).
    rolldownOptions: {
      output: { codeSplitting: { groups: [{ name: "common", minShareCount: 12 }] } },
    },
  },
});
