/* The whole screen for the bench, and back. */
export function turnWholeScreen() {
  if (document.fullscreenElement) return void document.exitFullscreen();
  // A browser may refuse it: then everything stays as it is.
  document.documentElement.requestFullscreen().catch(() => undefined);
}
