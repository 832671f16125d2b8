/* The bow of the lens: from traces, by hand, or from the open lens database. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, taken, type Recipe } from "../api/client";
import { Choices } from "../shared/Choices";
import { RecipeSlider } from "./RecipeSlider";
import { withBow } from "./recipes";
import type { Bench } from "./useBench";

type Source = Recipe["bow"]["source"];
const SOURCES: [Source, string][] = [
  ["traces", "From traces"],
  ["hand", "By hand"],
  ["database", "From the lens database"],
  ["none", "Leave the bow in"],
];

export function BowPart({ bench }: { bench: Bench }) {
  const { bow } = bench.solution;
  const chosen = bench.recipe.bow.source;
  const [browsing, setBrowsing] = useState(false);
  const source = browsing ? "database" : chosen;
  const choose = (value: Source) => {
    setBrowsing(value === "database" && !bench.recipe.bow.lens);
    if (value === "database" && !bench.recipe.bow.lens) return; // nothing changes before a lens is taken
    // By hand goes on from what is there.
    const start = value === "hand" ? { k1: round(bow.polynomial[1]), k2: round(bow.polynomial[3]) } : {};
    void bench.acts.commit(withBow(bench.acts.latest(), { source: value, ...start }), value === "none" ? "bow left in" : `bow ${value === "hand" ? "by hand" : `from ${value}`}`);
  };
  return (
    <Box>
      <Text as="h2" fontSize="12px" fontWeight="600" color="inkSoft" mb="6px">
        Bow of the lens
      </Text>
      <Text fontFamily="mono" mb="10px" aria-live="polite">
        {bow.words}
      </Text>
      <Choices label="Bow" value={source} options={SOURCES} onChoose={choose} />
      <Box mt="12px">
        {source === "traces" && <FromTraces bench={bench} />}
        {source === "hand" && <ByHand bench={bench} />}
        {source === "database" && <FromDatabase bench={bench} onTaken={() => setBrowsing(false)} />}
      </Box>
    </Box>
  );
}

const round = (value: number | undefined): number => Math.round((value ?? 0) * 1e5) / 1e5;
const signed = (value: number, places: number): string => `${value < 0 ? "−" : "+"}${Math.abs(value).toFixed(places)}`;

function FromTraces({ bench }: { bench: Bench }) {
  const traces = bench.recipe.readings.filter((reading) => reading.kind === "trace" && reading.active).length;
  const { polynomial, sigma } = bench.solution.bow;
  const coefficient = (name: string, value: number, deviation: number | null) => `${name} ${signed(value, 4)}${deviation === null ? "" : ` ± ${deviation.toFixed(4)}`}`;
  if (!traces)
    return (
      <Text color="inkSoft">
        In Measure, trace (T) something that is straight in reality and looks bent, best long and near a border. The bow that makes all traces straight is taken out.
      </Text>
    );
  return (
    <Box>
      <Text>
        {traces} {traces === 1 ? "trace" : "traces"}
      </Text>
      {sigma[0] !== null && (
        <Text fontFamily="mono" fontSize="12px" color="inkSoft">
          {coefficient("k1", polynomial[1], sigma[0])}
          {sigma[1] !== null && (
            <>
              <br />
              {coefficient("k2", polynomial[3], sigma[1])}
            </>
          )}
        </Text>
      )}
    </Box>
  );
}

function ByHand({ bench }: { bench: Bench }) {
  const { k1, k2 } = bench.recipe.bow;
  return (
    <Box>
      <Flex justify="space-between" color="inkSoft" fontSize="12px" mb="2px">
        <span>barrel</span>
        <span>0</span>
        <span>pincushion</span>
      </Flex>
      <RecipeSlider acts={bench.acts} entry={bench.state.entry_id} label="Bow, from barrel to pincushion" what="bow by hand" value={k1 * 1000} min={-140} max={140} step={1} centred change={(recipe, value) => withBow(recipe, { source: "hand", k1: value / 1000 })} />
      <Text mt="10px" mb="2px" color="inkSoft" fontSize="12px">
        finely
      </Text>
      <Fine key={bench.state.entry_id} bench={bench} />
      <Flex mt="12px" gap="8px">
        <Coefficient bench={bench} name="k1" value={k1} />
        <Coefficient bench={bench} name="k2" value={k2} />
      </Flex>
    </Box>
  );
}

/** A tenth of the way of the slider above, about where it stands. */
function Fine({ bench }: { bench: Bench }) {
  const [middle] = useState(bench.recipe.bow.k1);
  return <RecipeSlider acts={bench.acts} entry={bench.state.entry_id} label="Bow, finely" what="bow by hand" value={(bench.recipe.bow.k1 - middle) * 10000} min={-140} max={140} step={1} centred change={(recipe, value) => withBow(recipe, { source: "hand", k1: round(middle + value / 10000) })} />;
}

function Coefficient({ bench, name, value }: { bench: Bench; name: "k1" | "k2"; value: number }) {
  const [text, setText] = useState<string>();
  const [wrong, setWrong] = useState(false);
  const enter = () => {
    if (text === undefined) return;
    const number = Number(text.replace(",", ".").replace("−", "-"));
    setWrong(!(Math.abs(number) <= 2));
    if (!(Math.abs(number) <= 2)) return;
    setText(undefined);
    void bench.acts.commit(withBow(bench.acts.latest(), { source: "hand", [name]: number }), "bow typed");
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        enter();
      }}
    >
      <Flex align="center" gap="6px">
        <Text fontFamily="mono">{name}</Text>
        <Input size="xs" height="28px" width="84px" px="6px" bg="sheet" borderColor={wrong ? "brick" : "rule"} fontFamily="mono" textAlign="right" aria-label={`Bow ${name}`} autoComplete="off" value={text ?? signed(value, 4)} onChange={(event) => setText(event.target.value)} onBlur={enter} />
      </Flex>
    </form>
  );
}

function FromDatabase({ bench, onTaken }: { bench: Bench; onTaken: () => void }) {
  const [text, setText] = useState("");
  const found = useQuery({
    queryKey: ["lenses", bench.state.id, text],
    queryFn: () => taken(client.GET("/api/pictures/{picture_id}/lenses", { params: { path: { picture_id: bench.state.id }, query: { text } } })),
    placeholderData: (before) => before,
  });
  const { lens } = bench.recipe.bow;
  const list = found.data?.lenses ?? [];
  return (
    <Box>
      {lens && bench.recipe.bow.source === "database" && (
        <Text mb="8px">
          <b>{lens}</b>
        </Text>
      )}
      <Input size="xs" height="28px" bg="sheet" borderColor="rule" placeholder="maker, focal length, name" aria-label="Search for a lens" autoComplete="off" value={text} onChange={(event) => setText(event.target.value)} />
      {found.data && (
        <Text mt="8px" color="inkSoft">
          {text.trim()
            ? `${list.length === 40 ? "The first 40" : list.length} of that name`
            : found.data.named
              ? `${list.length || "No lenses"} for ${found.data.named}`
              : "The file names neither camera nor lens; search for yours."}
        </Text>
      )}
      <Flex as="ul" direction="column" mt="6px" maxHeight="180px" overflowY="auto" listStyleType="none">
        {list.map(({ name }) => (
          <li key={name}>
            <Button
              size="2xs"
              variant="plain"
              px="0"
              height="auto"
              py="3px"
              width="100%"
              justifyContent="flex-start"
              textAlign="left"
              whiteSpace="normal"
              fontWeight={name === lens ? "600" : "400"}
              color={name === lens ? "verdigris" : "ink"}
              aria-pressed={name === lens}
              onClick={() => {
                onTaken();
                void bench.acts.takeLens(name);
              }}
            >
              {name}
            </Button>
          </li>
        ))}
      </Flex>
    </Box>
  );
}
