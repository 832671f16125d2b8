/* Type the tilt that was read off the picture; Sequor works out the opposite turn and says so. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { memo, useState } from "react";
import { Refused } from "../api/client";
import { withTrim } from "./recipes";
import type { Bench } from "./useBench";

export const TiltField = memo(function TiltField({ bench }: { bench: Bench }) {
  const [text, setText] = useState<string>();
  const [said, setSaid] = useState<{ words: string; bad: boolean }>();
  const { stance, readings } = bench.solution;
  const trimmed = Math.abs(bench.recipe.trim.roll_deg) > 1e-9;

  const submit = async () => {
    if (text === undefined || text.trim() === "") return setText(undefined);
    try {
      const words = await bench.typeTilt(text);
      setSaid({ words, bad: false });
      setText((now) => (now === text ? undefined : now)); // the next angle may be on its way already
    } catch (error) {
      setSaid({ words: error instanceof Refused ? error.message : String(error), bad: true });
    }
  };
  const message = said ?? { words: "Type what you read; the opposite turn is made.", bad: false };

  return (
    <Box width="panel" flexShrink={0} px="16px" py="8px" borderLeftWidth="1px" borderColor="rule">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <Flex align="center" gap="10px">
          <label htmlFor="tilt">Tilt as shot</label>
          <Input
            id="tilt"
            size="xs"
            height="28px"
            flex="1"
            bg="sheet"
            borderColor="rule"
            fontFamily="mono"
            textAlign="right"
            autoComplete="off"
            value={text ?? stance.tilt_words}
            onFocus={(event) => {
              setText(stance.tilt_words);
              const field = event.currentTarget;
              requestAnimationFrame(() => field.select());
            }}
            onBlur={() => setText(undefined)}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
          />
        </Flex>
      </form>
      <Text fontSize="12px" lineHeight="1.35" color={message.bad ? "brick" : "inkSoft"} mt="6px" role={message.bad ? "alert" : "status"} lineClamp={3}>
        {message.words}
      </Text>
      {trimmed && (
        <Button size="2xs" variant="plain" px="0" color="verdigris" fontWeight="600" onClick={() => void bench.commit(withTrim(bench.latest(), 0), "trim taken back")}>
          {readings.length ? "Back to what the readings say" : "Back to as shot"}
        </Button>
      )}
    </Box>
  );
});
