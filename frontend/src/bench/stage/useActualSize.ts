/* One to one at the pointer while a key is held: a pixel of the file on a pixel of the screen. */
import { useEffect, useRef, type PointerEvent } from "react";
import type { Point } from "../../picture/geometry";
import type { Size } from "../../picture/useSize";
import { TAKES_KEYS, useHeld } from "../../shared/keys";
import type { View, Zoomed } from "./useView";

/**
 * @param scale Pixels of the file for a pixel of the corrected picture.
 */
export function useActualSize(view: View, size: Size, scale: number) {
  const held = useHeld("z", { unless: TAKES_KEYS });
  const pointer = useRef<Point>(undefined);
  const before = useRef<Zoomed | "fitted">(undefined);
  const { zoom, pan, at, zoomFrom, lookAt } = view;
  const { fitted, fit } = view.near;
  useEffect(() => {
    if (held && !before.current) {
      before.current = fitted ? "fitted" : { zoom, pan };
      const where = pointer.current
        ? at(pointer.current)
        : ([size.width / 2, size.height / 2] as const);
      zoomFrom({ zoom, pan }, scale / window.devicePixelRatio / zoom, [where[0], where[1]]);
    } else if (!held && before.current) {
      if (before.current === "fitted") fit();
      else lookAt(before.current);
      before.current = undefined;
    }
  });
  return (event: PointerEvent) => {
    pointer.current = [event.clientX, event.clientY];
  };
}
