/* The readings as a table. */
import { Table, VisuallyHidden } from "@chakra-ui/react";
import { t } from "../../shared/words";
import type { SolvedReading } from "../../api/client";
import type { Bench } from "../useBench";
import { ReadingRows } from "./ReadingRows";

interface Props {
  bench: Bench;
  /** Those that are in ink. */
  readings: readonly SolvedReading[];
  selected: string | undefined;
  onSelect: (id: string | undefined) => void;
  onDelete: (id: string) => void;
  onFit: (id: string, fit: boolean) => void;
}

export function ReadingTable({ bench, readings, selected, onSelect, onDelete, onFit }: Props) {
  const { recipe, report, acts } = bench;
  return (
    <Table.Root
      size="sm"
      fontFamily="mono"
      fontSize="12px"
      unstyled
      width="100%"
      borderCollapse="collapse"
    >
      <Table.Header>
        <Table.Row color="inkSoft" borderBottomWidth="1px" borderColor="rule">
          <Head label={t("reading")} unseen />
          <Head label={t("tilt as shot")} />
          <Head label={t("sure to")} />
          <Head label={t("left (over)", { defaultValue: "left" })} />
          <Head label={t("what can be done")} unseen />
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {readings.map((solved) => {
          const place = solved.number - 1;
          const [reading, words] = [recipe.readings[place], report.readings[place]];
          return (
            reading &&
            words && (
              <ReadingRows
                key={solved.id}
                acts={acts}
                reading={reading}
                solved={solved}
                words={words}
                lit={solved.id === selected}
                onSelect={onSelect}
                onDelete={onDelete}
                onFit={onFit}
              />
            )
          );
        })}
      </Table.Body>
    </Table.Root>
  );
}

function Head({ label, unseen }: { label: string; unseen?: boolean }) {
  return (
    <Table.ColumnHeader
      fontWeight="500"
      fontSize="11.5px"
      fontFamily="body"
      textAlign="right"
      whiteSpace="nowrap"
      px="3px"
      py="4px"
      _first={{ pl: "14px" }}
      _last={{ pr: "6px" }}
    >
      {unseen ? <VisuallyHidden>{label}</VisuallyHidden> : label}
    </Table.ColumnHeader>
  );
}
