/* Print sizes: one of a lab's list, or one's own; the list can be changed. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { locale, t } from "../../shared/words";
import { client, taken, type ListedSize, type PrintSize } from "../../api/client";
import { Missing } from "../../shared/Missing";
import { Choice, Part, QuietButton } from "../../shared/Part";
import type { Bench } from "../useBench";
import { OwnSize } from "./OwnSize";

const shapeOf = ({ width, height, unit, ppi }: ListedSize): PrintSize => ({
  width,
  height,
  unit,
  ppi,
});
const same = (a: PrintSize, b: PrintSize) =>
  a.width === b.width && a.height === b.height && a.unit === b.unit && a.ppi === b.ppi;

export function PrintPart({ bench }: { bench: Bench }) {
  const now = bench.recipe.frame.print_size ?? null;
  const [own, setOwn] = useState(false);
  const list = useQuery({
    queryKey: ["print-sizes"],
    queryFn: () => taken(client.GET("/api/print-sizes")),
  });
  const sizes = list.data?.sizes ?? [];
  const listed = now && sizes.find((size) => same(size, now) || same(size.turned, now));
  const take = (size: PrintSize | null) =>
    void bench.acts.record({ do: "choose_print_size", size });
  const choose = (value: string) => {
    setOwn(value === "own");
    if (value === "none") take(null);
    const found = sizes.find((size) => String(size.id) === value);
    if (found) take(shapeOf(found));
  };
  const { print_scale: scale } = bench.solution.cost;
  return (
    <Part title={t("Print size")}>
      <Missing asked={list} />
      <Choice
        label={t("Print size")}
        value={own ? "own" : listed ? String(listed.id) : now ? "own" : "none"}
        onChoose={choose}
        options={[
          { value: "none", label: t("No print size") },
          ...sizes.map((size) => ({
            value: String(size.id),
            label: `${size.name}, ${size.width} × ${size.height} ${size.unit}`,
          })),
          { value: "own", label: t("Own size…") },
        ]}
      />
      {(own || (now && !listed)) && (
        <OwnSize
          start={now}
          onTake={take}
          onListed={(size) => {
            take(shapeOf(size));
            setOwn(false);
          }}
        />
      )}
      {now && (
        <Box mt="8px">
          <Text fontFamily="mono" fontSize="12px">
            {t("{width} × {height} {unit} at {ppi} ppi", {
              width: now.width.toLocaleString(locale()),
              height: now.height.toLocaleString(locale()),
              unit: t(now.unit),
              ppi: now.ppi,
            })}
          </Text>
          <Text color={scale && scale > 1 ? "brick" : "inkSoft"}>{bench.report.cost.print}</Text>
          <Flex mt="6px" gap="6px">
            <QuietButton
              onClick={() => void bench.acts.record({ do: "turn_shape" })}
              disabled={now.width === now.height}
            >
              {t("Turn it")}
            </QuietButton>
            {listed && <TakeOff size={listed} />}
          </Flex>
        </Box>
      )}
    </Part>
  );
}

function TakeOff({ size }: { size: ListedSize }) {
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () =>
      taken(
        client.DELETE("/api/print-sizes/{size_id}", { params: { path: { size_id: size.id } } }),
      ),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["print-sizes"] }),
  });
  return (
    <QuietButton
      onClick={() => remove.mutate()}
      title={t("The picture keeps this size; it only leaves the list")}
    >
      {t("Take off the list")}
    </QuietButton>
  );
}
