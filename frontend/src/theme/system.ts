/* The look: paper and ink, as Chakra tokens. Every colour and size on screen comes from here. */
import { createSystem, defineConfig } from "@chakra-ui/react";
import { defaultBaseConfig } from "@chakra-ui/react/preset-base";
import { usedTheme } from "./recipes";

const both = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%" },
    body: {
      bg: "paper",
      color: "ink",
      fontFamily: "body",
      fontSize: "13px",
      lineHeight: 1.4,
      overflow: "hidden",
    },
    "*, *::before, *::after": {
      _motionReduce: {
        animationDuration: "1ms !important",
        animationIterationCount: "1 !important",
        transitionDuration: "1ms !important",
      },
    },
    ":root, .dark": {
      _moreContrast: {
        "--chakra-colors-ink-soft": "var(--chakra-colors-ink) !important",
        "--chakra-colors-rule": "var(--chakra-colors-ink) !important",
        "--chakra-colors-rule-faint": "var(--chakra-colors-ink) !important",
      },
    },
    // Where the system paints, a pressed button would look like any other, and a reading like all.
    "[aria-pressed=true], [aria-current]:not([aria-current=false]), [aria-checked=true]": {
      _highContrast: { outline: "2px solid Highlight !important" },
    },
    "[data-stage], [role=slider] svg": { _highContrast: { forcedColorAdjust: "none" } },
    "*:focus-visible": { outline: "2px solid {colors.verdigris}", outlineOffset: "1px" },
  },
  theme: {
    tokens: {
      fonts: {
        body: { value: '"IBM Plex Sans", sans-serif' },
        heading: { value: '"IBM Plex Sans", sans-serif' },
        mono: { value: '"IBM Plex Mono", monospace' },
      },
      sizes: {
        topBar: { value: "48px" },
        book: { value: "300px" },
        column: { value: "288px" },
        strip: { value: "90px" },
      },
    },
    semanticTokens: {
      colors: {
        paper: both("#f8f5ee", "#1b2026"),
        paperDeep: both("#efeadd", "#242a31"),
        sheet: both("#fffdf8", "#20262d"),
        rule: both("#dbd4c3", "#3a424b"),
        ruleFaint: both("#e9e3d5", "#2d343c"),
        ink: both("#1d2a38", "#ece7da"),
        inkSoft: both("#586370", "#a9b1b8"),
        verdigris: both("#1c7468", "#4fb3a3"),
        onVerdigris: both("#ffffff", "#0e1b19"),
        brick: both("#a83c25", "#e58a74"),
        highlight: both("#fff3d6", "#38341f"),
        // Around the picture: neutral grey in both schemes, so that the eye judges the picture.
        stage: both("#83847f", "#4a4b48"),
        // Readings differ by shape as well: see bench/ReadingMark.tsx.
        level: both("#9a6206", "#e0a83c"),
        plumb: both("#6b479f", "#b694e4"),
        horizon: both("#96395d", "#e08fb0"),
        trace: both("#4f6f1f", "#9dbf63"),
        check: both("#2b5f86", "#7fb4dc"),
        set_out: both("#9b4f26", "#e0935f"),
        levelOnPicture: both("#f0b243", "#f0b243"),
        plumbOnPicture: both("#b795e8", "#b795e8"),
        horizonOnPicture: both("#f2a3c0", "#f2a3c0"),
        traceOnPicture: both("#b5d878", "#b5d878"),
        checkOnPicture: both("#8cc6f0", "#8cc6f0"),
        set_outOnPicture: both("#ffb07a", "#ffb07a"),
        guideOnPicture: both("#f4f0e4", "#f4f0e4"),
        levelDeep: both("#8a5a0a", "#8a5a0a"),
        plumbDeep: both("#56368a", "#56368a"),
        horizonDeep: both("#7a2f4c", "#7a2f4c"),
        traceDeep: both("#3f5a18", "#3f5a18"),
        checkDeep: both("#234e6e", "#234e6e"),
        set_outDeep: both("#7c3b18", "#7c3b18"),
        bentPart: both("#2f7f9a", "#5fb4cf"),
        onPicture: both("#fffdf8", "#fffdf8"),
        inkOnPicture: both("#1d2a38", "#1d2a38"),
        tube: both("#f4f2d2", "#3c402a"),
        bubble: both("#cfdb93", "#9fb052"),
        bubbleRim: both("#7f8d3c", "#d5e39a"),
      },
    },
  },
});

export const system = createSystem(defaultBaseConfig, usedTheme, config);
