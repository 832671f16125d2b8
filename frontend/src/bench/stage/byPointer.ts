/* What a drag on the stage takes into the hand, and what of it the server is asked for. */
import { distance, mapped, type Point } from "../../picture/geometry";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { newId, type Hold } from "./tools";
import type { useClicked } from "./useClicked";
import type { View } from "./useView";

/** A shorter drag was a click. */
const MIN_DRAG_PX = 6;

interface Hands {
  bench: Bench;
  view: View;
  desk: Desk;
  clicked: ReturnType<typeof useClicked>;
}

export function byPointer({ bench, view, desk, clicked }: Hands) {
  const { acts } = bench;
  const { seen, zoom } = view;
  const { tool, fitting } = desk;
  const measuring = desk.step === "measure";

  const begin = (target: Element, xy: Point, panning: boolean, reach: number): Hold | undefined => {
    if (panning) return { what: "pan", from: view.at(xy), before: { zoom, pan: view.pan } };
    desk.say(undefined);
    const at = view.fromStage(view.at(xy));
    const handle = target.closest("[data-end]") ?? nearestEnd(view.at(xy), reach);
    if (handle && !clicked.clicking) {
      const { reading: id = "", end } = (handle as SVGElement).dataset;
      desk.select(id);
      // A finger takes it from beside, and does not lie on it.
      return {
        what: "end",
        id,
        end: Number(end),
        at: reach > 0 ? view.fromStage(centreOf(handle)) : at,
      };
    }
    if (tool && measuring) {
      if (tool !== "rectangle" && tool !== "trace" && !clicked.clicking)
        return { what: "draw", id: newId(), kind: tool, points: [at, at] };
      return { what: "click", at };
    }
    if (target.closest("[data-outside]")) {
      const about = middleOf(bench, view);
      desk.setTurning(true);
      return { what: "turn", about, from: angleAt(about, view.at(xy)) };
    }
    const line = target.closest<SVGElement>("[data-line]")?.dataset.line;
    desk.select(line);
    return line && measuring ? { what: "line", id: line, from: at, at } : undefined;
  };

  const move = (now: Hold, xy: Point): Hold => {
    if (now.what === "pan") {
      view.zoomFrom(now.before, 1, now.from, view.at(xy));
      return now;
    }
    if (now.what === "turn") {
      const deg = shortWay(angleAt(now.about, view.at(xy)) - now.from);
      acts.draft({ do: "turn_by", axis: "roll", deg });
      return now;
    }
    const at = view.fromStage(view.at(xy));
    if (now.what === "click") return { ...now, at };
    if (now.what === "end") {
      acts.draft(
        { do: "move_point", id: now.id, point: now.end, to: at, seen, zoom, refit: true },
        { still: true },
      );
      return { ...now, at };
    }
    if (now.what === "line") {
      const places: [Point, Point] = [now.from, at];
      acts.draft({ do: "move_reading", id: now.id, places, seen, refit: true }, { still: true });
      return { ...now, at };
    }
    const points: [Point, Point] = [now.points[0], at];
    if (longEnough(points))
      acts.draft(
        { do: "draw_reading", id: now.id, kind: now.kind, points, seen, zoom, fit: fitting },
        { still: true },
      );
    return { ...now, points };
  };

  const longEnough = ([a, b]: [Point, Point]) => distance(a, b) * zoom >= MIN_DRAG_PX;

  /** Whether more than a press has come of it, that another finger is not to take back. */
  const isBegun = (now: Hold) =>
    now.what === "draw" ? longEnough(now.points) : now.what !== "click" && now.what !== "pan";

  return { begin, move, longEnough, isBegun };
}

/** Where an end is drawn: each has an origin of its own. */
function centreOf(end: Element): Point {
  const { e, f } = (end as SVGCircleElement).getCTM() as DOMMatrix;
  return [e, f];
}

/** The end of a reading that is nearest to a place on the stage, within reach. */
function nearestEnd(at: Point, reach: number): Element | undefined {
  const far = (end: Element) => distance(centreOf(end), at);
  return [...document.querySelectorAll("[data-end]")]
    .filter((end) => far(end) < reach)
    .sort((a, b) => far(a) - far(b))[0];
}

/** The middle of the frame on the stage. */
function middleOf(bench: Bench, view: View): Point {
  const { x, y, width, height } = bench.shown.frame;
  return mapped(view.plane, [x + width / 2, y + height / 2]);
}

/** The direction of a place, in degrees, clockwise. */
const angleAt = ([x, y]: Point, [px, py]: Point): number =>
  (Math.atan2(py - y, px - x) * 180) / Math.PI;

const shortWay = (deg: number): number => deg - 360 * Math.round(deg / 360);
