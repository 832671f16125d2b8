/* When the hand rests: the visible part rendered by the server from the original, laid exactly over
   the moved picture. */
import { chakra } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { clamp, inverse, mapped, type Point } from "../../picture/geometry";
import type { Bench } from "../useBench";
import type { View } from "./useView";

const Picture = chakra("img");
const REST_MS = 220;

export function CrispView({
  bench,
  view,
  size,
}: {
  bench: Bench;
  view: View;
  size: { width: number; height: number };
}) {
  const { plane, outline } = bench.solution;
  const back = inverse(view.plane);
  const [x0, y0] = mapped(back, [0, 0]);
  const [x1, y1] = mapped(back, [size.width, size.height]);
  const left = clamp(x0, 0, plane.width);
  const top = clamp(y0, 0, plane.height);
  const width = clamp(x1, 0, plane.width) - left;
  const height = clamp(y1, 0, plane.height) - top;
  const ratio = window.devicePixelRatio;
  const query = new URLSearchParams(
    Object.entries({ x: left, y: top, width, height, scale: view.zoom * ratio }).map(
      ([name, value]) => [name, String(value)],
    ),
  );
  const address = `${bench.state.addresses.corrected}/view.jpg?${query}`;
  const [wanted, setWanted] = useState<string>();
  const [shown, setShown] = useState<string>();
  useEffect(() => {
    const timer = window.setTimeout(() => setWanted(address), REST_MS);
    return () => window.clearTimeout(timer);
  }, [address]);
  if (wanted !== address || width < 1 || height < 1) return null;

  const [px, py] = mapped(view.plane, [left, top]);
  const vertices = outline
    .map((p) => mapped(view.plane, p as Point))
    .map(([x, y]) => `${x - px}px ${y - py}px`);
  return (
    <Picture
      key={address}
      src={address}
      alt=""
      aria-hidden
      data-crisp={shown === address}
      position="absolute"
      maxWidth="none"
      pointerEvents="none"
      draggable={false}
      onLoad={() => setShown(address)}
      style={{
        left: px,
        top: py,
        width: Math.max(1, Math.round(width * view.zoom * ratio)) / ratio,
        height: Math.max(1, Math.round(height * view.zoom * ratio)) / ratio,
        clipPath: `polygon(${vertices.join(", ")})`,
        visibility: shown === address ? "visible" : "hidden",
      }}
    />
  );
}
