/* Print sizes: one of a lab's list, or one's own; the list can be changed. */
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, taken, type ListedSize, type PrintSize } from "../api/client";
import { Choice, Part, QuietButton } from "../shared/Part";
import { withFrame } from "./recipes";
import type { Bench } from "./useBench";

const UNITS: [PrintSize["unit"], string][] = [
  ["in", "in"],
  ["cm", "cm"],
];
const START = { name: "", width: "10", height: "8", unit: "in" as PrintSize["unit"], ppi: "300" };
const shapeOf = ({ width, height, unit, ppi }: ListedSize): PrintSize => ({ width, height, unit, ppi });
const same = (a: PrintSize, b: PrintSize) => a.width === b.width && a.height === b.height && a.unit === b.unit && a.ppi === b.ppi;
const turnedOver = (size: PrintSize): PrintSize => ({ ...size, width: size.height, height: size.width });
const inWords = (size: PrintSize) => `${size.width} × ${size.height} ${size.unit} at ${size.ppi} ppi`;

export function PrintPart({ bench }: { bench: Bench }) {
  const now = bench.recipe.frame.print_size ?? null;
  const [own, setOwn] = useState(false);
  const list = useQuery({ queryKey: ["print-sizes"], queryFn: () => taken(client.GET("/api/print-sizes")) });
  const sizes = list.data?.sizes ?? [];
  const listed = now && sizes.find((size) => same(size, now) || same(size, turnedOver(now)));
  const take = (size: PrintSize | null) => void bench.acts.commit(withFrame(bench.acts.latest(), { print_size: size }), size ? `print ${size.width} × ${size.height} ${size.unit}` : "no print size");
  const choose = (value: string) => {
    setOwn(value === "own");
    if (value === "none") take(null);
    const found = sizes.find((size) => String(size.id) === value);
    if (found) take(shapeOf(found));
  };
  return (
    <Part title="Print size">
      <Choice
        label="Print size"
        value={own ? "own" : listed ? String(listed.id) : now ? "own" : "none"}
        onChoose={choose}
        options={[["none", "No print size"], ...sizes.map((size): [string, string] => [String(size.id), `${size.name}, ${size.width} × ${size.height} ${size.unit}`]), ["own", "Own size…"]]}
      />
      {(own || (now && !listed)) && <OwnSize start={now} onTake={take} onListed={() => setOwn(false)} />}
      {now && (
        <Box mt="8px">
          <Text fontFamily="mono" fontSize="12px">
            {inWords(now)}
          </Text>
          <Text color={bench.solution.cost.print_words.includes("enlarged") ? "brick" : "inkSoft"}>{bench.solution.cost.print_words}</Text>
          <Flex mt="6px" gap="6px">
            <QuietButton onClick={() => take(turnedOver(now))} disabled={now.width === now.height}>
              Turn it
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
    mutationFn: () => taken(client.DELETE("/api/print-sizes/{size_id}", { params: { path: { size_id: size.id } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["print-sizes"] }),
  });
  return (
    <QuietButton onClick={() => remove.mutate()} title="The picture keeps this size; it only leaves the list">
      Take off the list
    </QuietButton>
  );
}

function OwnSize({ start, onTake, onListed }: { start: PrintSize | null; onTake: (size: PrintSize) => void; onListed: () => void }) {
  const queries = useQueryClient();
  const [typed, setTyped] = useState(start ? { name: "", width: String(start.width), height: String(start.height), unit: start.unit, ppi: String(start.ppi) } : START);
  const number = (text: string) => Number(text.replace(",", "."));
  const size: PrintSize = { width: number(typed.width), height: number(typed.height), unit: typed.unit, ppi: number(typed.ppi) };
  const add = useMutation({
    mutationFn: () => taken(client.POST("/api/print-sizes", { body: { ...size, name: typed.name.trim() } })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["print-sizes"] });
      onTake(shapeOf(made));
      onListed();
    },
  });
  const field = (name: "width" | "height" | "ppi", label: string, width: string) => (
    <Input size="xs" height="28px" width={width} px="6px" bg="sheet" borderColor="rule" fontFamily="mono" textAlign="right" aria-label={label} autoComplete="off" value={typed[name]} onChange={(event) => setTyped({ ...typed, [name]: event.target.value })} />
  );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onTake(size);
      }}
    >
      <Flex mt="8px" gap="5px" align="center">
        {field("width", "Print width", "48px")}
        <Text>×</Text>
        {field("height", "Print height", "48px")}
        <Choice label="Unit" width="58px" value={typed.unit} options={UNITS} onChoose={(unit) => setTyped({ ...typed, unit })} />
        {field("ppi", "Pixels per inch", "46px")}
      </Flex>
      <Flex mt="6px" gap="6px">
        <QuietButton type="submit">Use this size</QuietButton>
      </Flex>
      <Flex mt="6px" gap="6px">
        <Input size="xs" height="28px" bg="sheet" borderColor="rule" aria-label="Name for the list" placeholder="name for the list" autoComplete="off" value={typed.name} onChange={(event) => setTyped({ ...typed, name: event.target.value })} />
        <QuietButton onClick={() => add.mutate()} disabled={!typed.name.trim()}>
          Add
        </QuietButton>
      </Flex>
      {add.error && (
        <Text role="alert" color="brick" mt="6px">
          {add.error.message}
        </Text>
      )}
    </form>
  );
}
