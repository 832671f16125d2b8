/* The Lens step: the bow, to be taken out before anything is measured, and the focal length, on which true proportions depend. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { BowPart } from "./BowPart";
import type { Bench } from "./useBench";

const SOURCES = { file: "The file says so.", assumed: "The file does not say; this is assumed.", stated: "Stated by hand." } as const;

export function LensPanel({ bench }: { bench: Bench }) {
  return (
    <Box p="16px" overflowY="auto">
      <BowPart bench={bench} />
      <FocalPart bench={bench} />
    </Box>
  );
}

function FocalPart({ bench }: { bench: Bench }) {
  const { focal35_mm: used, source, estimate35_mm: estimate, estimate_sigma_mm: sigma } = bench.solution.focal;
  const [text, setText] = useState<string>();
  const [wrong, setWrong] = useState<string>();
  const shown = Number(used.toFixed(1)).toString();
  const take = (focal35_mm: number | null) => void bench.acts.commit({ ...bench.acts.latest(), focal35_mm }, focal35_mm ? `focal length ${Number(focal35_mm.toFixed(1))} mm` : "focal length of the file");
  const enter = () => {
    if (text === undefined) return;
    const mm = Number(text.replace(",", ".").replace(/mm$/, ""));
    if (!(mm >= 4 && mm <= 5000)) return setWrong("A focal length lies between 4 and 5000 mm.");
    setWrong(undefined);
    setText(undefined);
    if (text !== shown) take(mm);
  };
  return (
    <Box mt="18px" pt="14px" borderTopWidth="1px" borderColor="rule">
      <Text as="h2" fontSize="12px" fontWeight="600" color="inkSoft" mb="10px">
        Focal length
      </Text>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          enter();
        }}
      >
        <Flex align="center" gap="8px">
          <Input size="xs" height="30px" width="90px" bg="sheet" borderColor={wrong ? "brick" : "rule"} fontFamily="mono" textAlign="right" aria-label="Focal length in 35-mm terms" autoComplete="off" value={text ?? shown} onChange={(event) => setText(event.target.value)} onBlur={enter} />
          <Text>mm in 35-mm terms</Text>
        </Flex>
      </form>
      <Text role={wrong ? "alert" : undefined} mt="8px" color={wrong ? "brick" : "inkSoft"}>
        {wrong ?? SOURCES[source]}
      </Text>
      {source === "stated" && (
        <Button mt="8px" size="xs" height="28px" variant="outline" borderColor="rule" color="ink" onClick={() => take(null)}>
          {bench.state.file.focal35_mm ? `Back to the file's ${Number(bench.state.file.focal35_mm.toFixed(1))} mm` : "Back to the assumption"}
        </Button>
      )}
      <Box mt="16px" pt="12px" borderTopWidth="1px" borderColor="rule">
        {estimate && sigma ? (
          <>
            <Text>
              The readings fit{" "}
              <b>
                {estimate.toFixed(1)} ± {sigma.toFixed(1)} mm
              </b>
              .
            </Text>
            <Button mt="8px" size="xs" height="28px" variant="outline" borderColor="rule" color="ink" onClick={() => take(Math.round(estimate * 10) / 10)}>
              Take {estimate.toFixed(1)} mm
            </Button>
          </>
        ) : (
          <Text color="inkSoft">Two plumb and two level readings on a front seen from below and from the side tell the focal length; these do not yet.</Text>
        )}
      </Box>
      <Text mt="16px" color="inkSoft">
        With the right focal length the proportions of a front that is set square are true. Cropping a picture before makes its stated length too short.
      </Text>
    </Box>
  );
}
