/* The recipe alone, as a file beside the picture. */
import { Flex, Link as Anchor, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { t } from "../../shared/words";
import type { Edit } from "../../api/client";
import { Part, QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";

export function RecipePart({ bench }: { bench: Bench }) {
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<string>();
  const open = async (chosen: File) => {
    setProblem(undefined);
    let recipe: unknown;
    try {
      recipe = JSON.parse(await chosen.text());
    } catch {
      return setProblem(t("{name} is no recipe; nothing was changed.", { name: chosen.name }));
    }
    const edit = { do: "open_recipe", recipe } as Edit;
    const { refused } = await bench.acts.record(edit, { quietly: true });
    setProblem(refused);
  };
  return (
    <Part title={t("The recipe")}>
      <Flex gap="6px">
        <QuietButton
          asChild
          title={t("Everything that was decided, for another machine or picture")}
        >
          <Anchor href={`/api/pictures/${bench.state.id}/recipe.json`} download>
            {t("Save as JSON")}
          </Anchor>
        </QuietButton>
        <QuietButton onClick={() => file.current?.click()}>{t("Open…")}</QuietButton>
        <input
          ref={file}
          type="file"
          accept=".json"
          hidden
          aria-label={t("Recipe file")}
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            if (chosen) void open(chosen);
            event.target.value = "";
          }}
        />
      </Flex>
      {problem && (
        <Text role="alert" color="brick" mt="6px">
          {problem}
        </Text>
      )}
    </Part>
  );
}
