/* What can be set about a reading: its name, its weight, its ends, whether it counts and is drawn.
 */
import { Flex, Text } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { Edit, Reading, ReadingWords, SolvedReading } from "../../api/client";
import { useOptions } from "../../api/options";
import { NumberField } from "../../shared/NumberField";
import { Choice } from "../../shared/Part";
import type { Acts } from "../useBench";
import { Toggle } from "./Toggle";
import { Typed } from "./Typed";

interface Props {
  acts: Acts;
  reading: Reading;
  solved: SolvedReading;
  words: ReadingWords;
}

export function ReadingDetails({ acts, reading, solved, words }: Props) {
  const {
    weight,
    name_length: nameLength,
    serves_as: directions,
    becomes,
    read_as: kinds,
    wanted_deg: wantedRange,
  } = useOptions();
  const { id, number: n } = solved;
  const keep = (edit: Edit) => void acts.record(edit);
  const keepTyped = async (edit: Edit) => (await acts.record(edit, { quietly: true })).refused;
  const end = (point: number) => (
    <Typed
      label={t("Position of end {point} of reading {n}", { point: point + 1, n })}
      value={(solved.hand_points[point] ?? []).map((v) => v.toFixed(1)).join(", ")}
      onEnter={async (text) => {
        const [x, y, ...more] = text.split(/[,;\s]+/).map(Number);
        if (x === undefined || y === undefined || more.length || !Number.isFinite(x + y))
          return t("Write x, y in source pixels.");
        return keepTyped({ do: "move_point", id, point, to: [x, y], refit: false });
      }}
    />
  );
  return (
    <Flex direction="column" gap="5px" fontFamily="body" fontSize="12px" width="266px">
      <Flex gap="5px" align="start">
        <Typed
          label={t("Name of reading {n}", { n })}
          placeholder={t("name")}
          value={reading.name}
          mono={false}
          longest={nameLength}
          onEnter={(name) => keepTyped({ do: "name_reading", id, name })}
        />
        <Text color="inkSoft" lineHeight="23px">
          {t("weight")}
        </Text>
        <NumberField
          label={t("Weight of reading {n}", { n })}
          what={t("A weight")}
          value={reading.weight}
          places={4}
          range={weight}
          width="56px"
          height="23px"
          onEnter={(value) => keep({ do: "weigh_reading", id, weight: value })}
        />
      </Flex>
      {reading.camera ? (
        <Text color="inkSoft">{words.placed}</Text>
      ) : (
        <Flex gap="5px">
          {end(0)}
          {end(solved.hand_points.length - 1)}
        </Flex>
      )}
      <Flex gap="5px">
        <Toggle
          on={reading.active}
          label={t("Use reading {n}", { n })}
          onClick={() => keep({ do: "switch_readings", ids: [id], active: !reading.active })}
        >
          {reading.active ? t("on") : t("off")}
        </Toggle>
        <Toggle
          on={!reading.hidden}
          label={t("Show reading {n}", { n })}
          onClick={() => keep({ do: "show_reading", id, shown: reading.hidden })}
        >
          {reading.hidden ? t("hidden") : t("shown")}
        </Toggle>
        {reading.kind === "trace" &&
          directions.map((direction) => (
            <Toggle
              key={direction}
              on={reading.serves_as === direction}
              label={t("Reading {n} is {direction} too", { n, direction: t(direction) })}
              title={t("What the trace follows is {direction} in reality", {
                direction: t(direction),
              })}
              onClick={() =>
                keep({
                  do: "let_trace_serve",
                  id,
                  serves_as: reading.serves_as === direction ? null : direction,
                })
              }
            >
              {t(direction)}
            </Toggle>
          ))}
      </Flex>
      {reading.kind !== "trace" && (
        <Flex gap="5px" align="center">
          <Text color="inkSoft" flexShrink={0} title={t("What it is in reality")}>
            {t("is")}
          </Text>
          <Choice
            label={t("What reading {n} is", { n })}
            value={reading.kind}
            options={kinds}
            width="150px"
            onChoose={(kind) => keep({ do: "read_as", id, kind })}
          />
        </Flex>
      )}
      {reading.kind !== "check" && (
        <Flex gap="5px" align="center">
          <Text color="inkSoft" flexShrink={0} title={t("What bending makes of it")}>
            {t("becomes")}
          </Text>
          <Choice
            label={t("What reading {n} becomes", { n })}
            value={reading.becomes}
            options={becomes}
            width="118px"
            onChoose={(chosen) => keep({ do: "let_reading_become", id, becomes: chosen })}
          />
          {reading.becomes === "angle" && (
            <NumberField
              label={t("Wanted angle of reading {n}", { n })}
              what={t("An angle")}
              unit="°"
              value={reading.wanted_deg}
              range={wantedRange}
              places={2}
              step={0.1}
              signed
              width="84px"
              height="23px"
              onEnter={(value) =>
                keep({ do: "let_reading_become", id, becomes: "angle", wanted_deg: value })
              }
            />
          )}
        </Flex>
      )}
      <Text color="inkSoft" lineHeight="1.3">
        {[words.wanted, words.placed, words.sag].filter(Boolean).join(", ")}
      </Text>
    </Flex>
  );
}
