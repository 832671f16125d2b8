/* What is laid over the picture to judge it by, and how strong the loupe is: guides, the mesh of
   what bends. None of it is stored. */
import { useState } from "react";
import { useKeys } from "../../shared/keys";
import type { Guide } from "./Guides";
import { POWERS } from "./Loupe";
import { nextOverlay, type Overlay } from "./MeshOverlay";
import { newId } from "./tools";

export type Aids = ReturnType<typeof useAids>;

export function useAids() {
  const [power, setPower] = useState(8);
  const [guides, setGuides] = useState<Guide[]>([]);
  const [overlay, setOverlay] = useState<Overlay>("off");
  const nextPower = () =>
    setPower((now) => POWERS[(POWERS.indexOf(now) + 1) % POWERS.length] ?? now);
  const turnOverlay = () => setOverlay(nextOverlay);
  useKeys(["m"], nextPower);
  useKeys(["w"], turnOverlay);
  return {
    power,
    nextPower,
    guides,
    setGuides,
    addGuide: (direction: Guide["direction"]) =>
      setGuides((now) => [
        ...now,
        { id: newId(), direction, at: direction === "level" ? [0.5, 0.4] : [0.4, 0.5] },
      ]),
    overlay,
    turnOverlay,
  };
}
