/* Type an angle of the picture as shot, about one axis; Sequor works out the correction and says
   what it understood. Entered, the keys are the bench's again. */
import { Input } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { t } from "../../shared/words";
import type { Axis } from "../../api/client";
import { focusStage } from "../stage/tools";
import type { Bench } from "../useBench";
import type { Desk } from "../useDesk";
import { useAxis } from "./useTube";

interface Props {
  bench: Bench;
  axis: Axis;
  onSay: Desk["say"];
}

export function AngleField({ bench, axis, onSay }: Props) {
  const [text, setText] = useState<string>();
  const field = useRef<HTMLInputElement>(null);
  const { ways } = useAxis(axis);
  const either = t("{one} or {other}", { one: ways[0], other: ways[1] });
  const shown = bench.report[axis].as_shot;

  const submit = async () => {
    if (text === undefined || text.trim() === "" || text === shown) {
      setText(undefined);
      return focusStage();
    }
    const { said, refused } = await bench.acts.record(
      { do: "type_angle", axis, text },
      { quietly: true },
    );
    onSay(refused ?? said, refused !== undefined);
    // The next angle may be on its way already.
    if (refused || field.current?.value !== text) return;
    setText(undefined);
    focusStage();
  };

  return (
    <form
      style={{ flex: "0 1 170px", minWidth: 118 }}
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <Input
        ref={field}
        aria-label={
          axis === "roll"
            ? t("Tilt as shot")
            : t("Camera pointed {ways}", {
                ways: either,
              })
        }
        title={t("Type what you read off the picture; the opposite turn is made")}
        size="xs"
        height="28px"
        width="100%"
        px="8px"
        bg="sheet"
        borderColor="rule"
        fontFamily="mono"
        fontSize="12px"
        textAlign="right"
        autoComplete="off"
        value={text ?? shown}
        onFocus={() => {
          setText(shown);
          requestAnimationFrame(() => field.current?.select());
        }}
        onBlur={() => setText(undefined)}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
      />
    </form>
  );
}
