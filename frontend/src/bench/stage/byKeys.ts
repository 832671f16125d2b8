/* Readings by the keys: a line put down to be moved, an end moved by the arrows. */
import type { KeyboardEvent } from "react";
import type { Point } from "../../picture/geometry";
import { arrow, stepOf } from "../../shared/keys";
import type { Bench } from "../useBench";
import { newId, type Tool } from "./tools";
import type { useClicked } from "./useClicked";
import type { View } from "./useView";

interface Hands {
  bench: Bench;
  view: View;
  clicked: ReturnType<typeof useClicked>;
  /** A line has been put down; one of its ends is to get the keys. */
  onPut: (id: string) => void;
}

export function byKeys({ bench, view, clicked, onPut }: Hands) {
  const { acts } = bench;
  const { zoom } = view;
  const moveEndByKey = (event: KeyboardEvent, id: string, point: number) => {
    const way = arrow(event);
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = stepOf(event, 1);
    acts.recordSoon(
      { do: "nudge_point", id, point, by: [way[0] * step, way[1] * step] },
      { still: true },
    );
  };

  const placeByKey = (kind: Tool) => {
    const { width, height } = bench.state.file;
    const at = (x: number, y: number): Point => [width * x, height * y];
    if (kind === "rectangle")
      return void clicked.placeRectangle(
        {
          do: "place_rectangle",
          group: newId(),
          vertices: [at(0.3, 0.3), at(0.7, 0.3), at(0.7, 0.7), at(0.3, 0.7)],
          zoom,
          fit: false,
        },
        true,
      );
    const points = {
      straight: [at(0.2, 0.5), at(0.8, 0.5)],
      trace: [at(0.15, 0.15), at(0.5, 0.15), at(0.85, 0.15)],
      plumb: [at(0.5, 0.2), at(0.5, 0.8)],
      level: [at(0.2, 0.5), at(0.8, 0.5)],
      horizon: [at(0.2, 0.5), at(0.8, 0.5)],
      check: [at(0.2, 0.5), at(0.8, 0.5)],
      set_out: [at(0.2, 0.5), at(0.8, 0.5)],
    }[kind];
    const id = newId();
    onPut(id);
    void acts.record({ do: "draw_reading", id, kind, points, zoom, fit: false });
  };

  return { moveEndByKey, placeByKey };
}
