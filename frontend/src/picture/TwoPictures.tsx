/* Two pictures against each other: beside, on either side of a divider, or one over the other;
   while B is held the first one alone. */
import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../shared/words";
import { HeldButton } from "../shared/Part";
import { useHeld } from "../shared/keys";
import { useRoom } from "../shared/useWindow";
import { FramedPicture, Pane } from "./FramedPicture";
import type { Shot } from "./ProxyPicture";
import type { Size } from "./useSize";

export type Way = "beside" | "divided" | "over";
const WAYS: [Way, string][] = [
  ["beside", t("Beside")],
  ["divided", t("Divided")],
  ["over", t("Over")],
];

const Slider = chakra("input");

/** A picture with what it is called. */
export interface Named {
  shot: Shot;
  name: string;
  /** What its pane is called, where they lie beside each other. */
  pane: string;
}

interface Props {
  first: Named;
  second: Named;
  way: Way;
}

export function TwoPictures({ first, second, way }: Props) {
  const [share, setShare] = useState(0.5);
  const held = useHeld("b", { inWindow: true });
  const { upright } = useRoom();
  if (way === "beside")
    return (
      <Flex position="absolute" inset="0" direction={upright ? "column" : "row"}>
        <One of={first} />
        <One of={second} />
      </Flex>
    );
  const divided = way === "divided" && !held;
  return (
    <Flex position="absolute" inset="0">
      <Pane name={way === "divided" ? t("Divided") : t("Over each other")}>
        {(size) => (
          <>
            <Framed of={first} size={size} />
            {!held && (
              <Box
                position="absolute"
                inset="0"
                style={{ opacity: way === "over" ? share : undefined }}
              >
                <Framed of={second} size={size} from={divided ? share : 0} />
              </Box>
            )}
            {divided && (
              <Box
                position="absolute"
                top="0"
                bottom="0"
                width="2px"
                bg="onPicture"
                style={{ left: `${share * size.width}px` }}
              />
            )}
            <Slider
              type="range"
              min={0}
              max={1}
              step={0.01}
              value={share}
              aria-label={
                way === "divided" ? t("Divider") : t("Strength of {name}", { name: second.name })
              }
              position="absolute"
              left="0"
              bottom="10px"
              width="100%"
              onChange={(event) => setShare(Number(event.target.value))}
            />
            <PictureTag>{first.name}</PictureTag>
            {!held && <PictureTag right>{second.name}</PictureTag>}
          </>
        )}
      </Pane>
    </Flex>
  );
}

function One({ of }: { of: Named }) {
  return (
    <Pane name={of.pane}>
      {(size) => (
        <>
          <Framed of={of} size={size} />
          <PictureTag>{of.name}</PictureTag>
        </>
      )}
    </Pane>
  );
}

function Framed({ of, size, from }: { of: Named; size: Size; from?: number }) {
  const alt = `${of.shot.state.file.name}, ${of.name}`;
  return <FramedPicture size={size} shot={of.shot} alt={alt} {...(from ? { from } : {})} />;
}

/** In which way they are seen. */
export function WayButtons({ way, onWay }: { way: Way; onWay: (way: Way) => void }) {
  return (
    <Flex gap="6px" role="group" aria-label={t("Compare")}>
      {WAYS.map(([value, label]) => (
        <HeldButton
          key={value}
          held={way === value}
          title={value === "beside" ? undefined : t("While B is held: the first one alone")}
          onClick={() => onWay(value)}
        >
          {label}
        </HeldButton>
      ))}
    </Flex>
  );
}

export function PictureTag({ children, right }: { children: string; right?: boolean }) {
  return (
    <Text
      position="absolute"
      top="10px"
      left={right ? undefined : "12px"}
      right={right ? "12px" : undefined}
      px="8px"
      py="2px"
      bg="inkOnPicture/70"
      color="onPicture"
      borderRadius="3px"
      fontSize="12px"
    >
      {children}
    </Text>
  );
}
