/* The light that a raw picture is developed for: one of the usual ones, or that of a grey spot. */
import { Flex, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { t } from "../../shared/words";
import { useOptions } from "../../api/options";
import { proxyOf } from "../../picture/proxyOf";
import { Choice, Part } from "../../shared/Part";
import { TakeTool } from "../frame/TakeTool";
import type { Framing } from "../frame/useFraming";
import type { Bench } from "../useBench";

export function LightPart({ bench, framing }: { bench: Bench; framing: Framing }) {
  const { lights } = useOptions();
  const { white } = bench.report;
  const arrived = useArrived(white && proxyOf(bench.state));
  if (!white) return null;
  const { source } = bench.recipe.white;
  return (
    <Part title={t("Light")}>
      <Choice
        label={t("Light that the picture is developed for")}
        value={source}
        // A spot is chosen on the picture.
        options={lights.filter(({ value }) => value !== "spot" || source === "spot")}
        onChoose={(chosen) =>
          chosen !== "spot" && void bench.acts.record({ do: "choose_white", source: chosen })
        }
      />
      <Flex mt="6px">
        <TakeTool framing={framing} tool="grey">
          {source === "spot" ? t("Another grey spot") : t("Choose a grey spot")}
        </TakeTool>
      </Flex>
      <Text mt="8px" color="inkSoft" role="status">
        {arrived ? t("Developed {white}.", { white }) : t("Developing {white} …", { white })}
      </Text>
    </Part>
  );
}

/** Whether an image has come; an empty address asks for none. */
function useArrived(src: string): boolean {
  const [arrived, setArrived] = useState<string>();
  useEffect(() => {
    if (!src) return;
    const image = new window.Image();
    image.onload = () => setArrived(src);
    image.src = src;
    return () => {
      image.onload = null;
    };
  }, [src]);
  return arrived === src;
}
