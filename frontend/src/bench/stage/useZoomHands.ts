/* Nearer and farther: by the wheel where the pointer is, by keys around the middle of the stage. */
import { useWheel } from "@use-gesture/react";
import type { RefObject } from "react";
import type { Size } from "../../picture/useSize";
import { useKeys } from "../../shared/keys";
import type { View } from "./useView";

const KEY_ZOOM = 1.25;
const ZOOM_PER_PX = 0.0015;

export function useZoomHands(stage: RefObject<HTMLElement | null>, view: View, size: Size) {
  // A wheel listener must not be passive, or the page would zoom too.
  useWheel(
    ({ event, delta: [, moved] }) => {
      event.preventDefault();
      view.zoomFrom(view, Math.exp(-moved * ZOOM_PER_PX), view.at([event.clientX, event.clientY]));
    },
    { target: stage, eventOptions: { passive: false } },
  );
  const zoomBy = (factor: number) => view.zoomFrom(view, factor, [size.width / 2, size.height / 2]);
  useKeys(["+", "="], () => zoomBy(KEY_ZOOM));
  useKeys(["-"], () => zoomBy(1 / KEY_ZOOM));
  useKeys(["0"], view.near.fit);
}
