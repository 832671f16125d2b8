/* Type an angle of the picture as shot, about one axis; Sequor works out the correction and says
   what it understood. */
import { Input } from "@chakra-ui/react";
import { useLayoutEffect, useRef, useState } from "react";
import type { Axis } from "../../api/client";
import type { Acts } from "../useBench";

export interface Said {
  words: string;
  bad: boolean;
}

interface Props {
  acts: Acts;
  axis: Axis;
  /** The angle as shot, in words. */
  shown: string;
  label: string;
  width: string;
  onSaid: (said: Said | undefined) => void;
}

export function AngleField({ acts, axis, shown, label, width, onSaid }: Props) {
  const [text, setText] = useState<string>();
  const field = useRef<HTMLInputElement>(null);

  // What is typed next takes the place of the whole angle, also of one that has just been answered.
  useLayoutEffect(() => {
    if (text === undefined && document.activeElement === field.current) field.current?.select();
  }, [shown, text]);

  const submit = async () => {
    if (text === undefined || text.trim() === "") return setText(undefined);
    const { said, refused } = await acts.keep({ do: "type_angle", axis, text }, { quietly: true });
    onSaid(
      refused ? { words: refused, bad: true } : said ? { words: said, bad: false } : undefined,
    );
    // The next angle may be on its way already.
    if (!refused) setText((now) => (now === text ? undefined : now));
  };

  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <Input
        ref={field}
        aria-label={label}
        size="xs"
        height="26px"
        width={width}
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
