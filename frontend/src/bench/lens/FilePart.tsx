/* What the original's file is, and what should be known of how it was read. */
import { Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import { Part } from "../../shared/Part";
import type { Bench } from "../useBench";

export function FilePart({ bench }: { bench: Bench }) {
  const { format, width, height, bits, profile, remarks, opened_from: from } = bench.state.file;
  return (
    <Part title={t("The file")}>
      <Text fontFamily="mono" fontSize="12px">
        {t("{format}, {width} × {height}, {bits} bit", { format, width, height, bits })}
      </Text>
      <Text color="inkSoft">{profile ?? t("no colour profile: taken for sRGB")}</Text>
      {from && (
        <Text mt="6px" overflowWrap="anywhere">
          {t("Opened where it lies, and never written: {from}", { from })}
        </Text>
      )}
      {remarks.map((remark) => (
        <Text key={remark} mt="6px">
          {remark}
        </Text>
      ))}
    </Part>
  );
}
