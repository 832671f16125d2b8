/* Readings that are clicked point by point: the four corners of a rectangle, a trace, a set-out
   line. */
import { useState } from "react";
import type { Edit } from "../../api/client";
import { distance, type Point } from "../../picture/geometry";
import type { Bench, Outcome } from "../useBench";
import type { View } from "./useView";
import { newId, type Tool } from "./tools";

const SAME_PLACE_PX = 4;

interface Options {
  bench: Bench;
  view: View;
  tool: Tool | undefined;
  fitting: boolean;
  /** A reading has been placed, or was refused; `lit` is what is to be lit up. */
  onPlaced: (outcome: Outcome, lit: string, byKey: boolean) => void;
}

export function useClicked({ bench, view, tool, fitting, onPlaced }: Options) {
  const { acts } = bench;
  const { seen, zoom } = view;
  // What was clicked so far; another view begins anew.
  const [clicked, setClicked] = useState<{ seen: View["seen"]; points: Point[] }>({
    seen,
    points: [],
  });
  const points = clicked.seen === seen ? clicked.points : [];
  const setPoints = (now: Point[]) => setClicked({ seen, points: now });

  const placeRectangle = async (edit: Extract<Edit, { do: "place_rectangle" }>, byKey: boolean) => {
    setPoints([]);
    onPlaced(await acts.record(edit, { quietly: true }), `${edit.group}-0`, byKey);
  };

  const end = async () => {
    const id = newId();
    const kind = tool === "set_out" ? "set_out" : "trace";
    const outcome = await acts.record(
      { do: "draw_reading", id, kind, points, seen, zoom, fit: fitting },
      { quietly: true },
    );
    if (!outcome.refused) setPoints([]);
    onPlaced(outcome, id, false);
  };

  const click = (at: Point) => {
    const last = points.at(-1);
    // The second click of a double click only ends the trace.
    if (last && distance(last, at) * zoom < SAME_PLACE_PX) return;
    const now = [...points, at];
    const [a, b, c, d] = now;
    if (tool === "rectangle" && a && b && c && d)
      void placeRectangle(
        { do: "place_rectangle", group: newId(), vertices: [a, b, c, d], seen, zoom, fit: fitting },
        false,
      );
    else setPoints(now);
  };

  return {
    points,
    /** Whether the next press is a click of such a reading, and not the beginning of a line. */
    clicking: tool === "rectangle" || tool === "trace" || (tool === "set_out" && points.length > 0),
    /** Whether there are points enough to end; two are enough for a set-out line. */
    endable: (tool === "trace" && points.length > 0) || (tool === "set_out" && points.length > 1),
    click,
    end,
    clear: () => setPoints([]),
    placeRectangle,
  };
}
