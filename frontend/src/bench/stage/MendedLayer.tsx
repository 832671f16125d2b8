/* What is mended, over the picture: as the file will have it, under its strokes only. */
import { useId, useState } from "react";
import type { Solution } from "../../api/client";
import { mapped, type Point } from "../../picture/geometry";
import type { Size } from "../../picture/useSize";
import { SvgBox } from "../../shared/SvgBox";
import { problemAt } from "../../shared/images";
import { t } from "../../shared/words";
import { StageWords } from "./StageParts";
import { strokePath } from "./Stroke";
import type { View } from "./useView";

export function MendedLayer({
  src,
  box,
  size,
  view,
  marks,
}: {
  src: string;
  /** Where the frame lies on the stage. */
  box: { left: number; top: number; width: number; height: number };
  size: Size;
  view: Pick<View, "plane" | "zoom">;
  marks: Solution["marks"]["mends"];
}) {
  const under = useId();
  const [loaded, setLoaded] = useState<string>();
  const [problem, setProblem] = useState<{ src: string; said: string }>();
  const ask = async (asked: string) =>
    setProblem({
      src: asked,
      said:
        (await problemAt(asked)) ??
        t("The place could not be made anew; the picture is kept as it is."),
    });
  const said = problem?.src === src ? problem.said : undefined;
  return (
    <>
      <SvgBox position="absolute" inset="0" width="100%" height="100%" pointerEvents="none">
        <mask id={under} maskUnits="userSpaceOnUse" x="0" y="0" {...size}>
          {marks.map(({ points, reach }, index) => (
            <path
              key={index}
              d={strokePath(points.map((point) => mapped(view.plane, point as Point)))}
              fill="none"
              stroke="#fff"
              strokeWidth={2 * reach * view.zoom + 1}
              strokeLinecap="round"
              strokeLinejoin="round"
            />
          ))}
        </mask>
        {/* Until the next one has come, the one before stays. */}
        {[loaded, src].map(
          (address, index) =>
            address &&
            (index || address !== src) && (
              <image
                key={address}
                href={address}
                x={box.left}
                y={box.top}
                width={box.width}
                height={box.height}
                preserveAspectRatio="none"
                mask={`url(#${under})`}
                data-mended={address === src ? loaded === src : undefined}
                onLoad={() => setLoaded(address)}
                onError={() => address === src && void ask(address)}
              />
            ),
        )}
      </SvgBox>
      {loaded !== src && (
        <StageWords bottom="52px" role={said ? "alert" : "status"}>
          {said ?? t("The place is being made anew…")}
        </StageWords>
      )}
    </>
  );
}
