/* What people call tools, steps and ways to look besides, for finding them. */
import { alike, t } from "../shared/words";
import type { Step } from "./steps";

export const TOOL_WORDS: Record<string, string[]> = {
  straight: alike(t("straighten, level, horizon, rotate, tilt, verticals, plumb, upright")),
  horizon: alike(t("sea, water, eye level, straighten")),
  rectangle: alike(t("keystone, perspective, façade, window, front, four corners")),
  trace: alike(t("distortion, barrel, pincushion, bow, curved")),
  level: alike(t("horizontal, force")),
  plumb: alike(t("vertical, converging, keystone, leaning, force")),
  set_out: alike(t("bend, warp, angle, straight")),
  check: alike(t("measure, really slopes, angle, protractor")),
};

export const STEP_WORDS: Record<Step, string[]> = {
  lens: alike(t("focal length, distortion, bow, barrel, profile")),
  measure: alike(t("readings, lines, field book")),
  frame: alike(t("crop, aspect ratio, shape, print size, composition, thirds")),
  corners: alike(t("fill, empty, white triangles, bend, content, invent")),
  export: alike(t("save, download, file, JPEG, TIFF, PNG")),
};

export const SHOWING_WORDS: Record<string, string[]> = {
  shot: alike(t("before, original")),
  beside: alike(t("before and after, compare, side by side")),
  divided: alike(t("before and after, compare, split, slider")),
  corrected: alike(t("after, work, lines")),
  finished: alike(t("after, result, preview, crop, clean, proof")),
  over: alike(t("before and after, compare, overlay, blend, transparent")),
};
export const SHOWING_KEYS: Record<string, string> = { shot: t("B held"), finished: "C" };
