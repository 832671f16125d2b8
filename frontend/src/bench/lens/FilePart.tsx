/* What the original's file is, and what should be known of how it was read. */
import { Text } from "@chakra-ui/react";
import { Part } from "../../shared/Part";
import type { Bench } from "../useBench";

export function FilePart({ bench }: { bench: Bench }) {
  const { format, width, height, bits, profile, remarks, opened_from: from } = bench.state.file;
  return (
    <Part title="The file">
      <Text fontFamily="mono" fontSize="12px">
        {format}, {width} × {height}, {bits} bit
      </Text>
      <Text color="inkSoft">{profile ?? "no colour profile: taken for sRGB"}</Text>
      {from && (
        <Text mt="6px" overflowWrap="anywhere">
          Opened where it lies, and never written: {from}
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
