/* What the picture proposes itself, in pencil: asked for, previewed, taken, refused. */
import { useCallback, useEffect, useRef, useState } from "react";
import { client, taken, type Edit, type ProposalOut, type Want } from "../../api/client";
import { asRefused } from "../../api/refused";
import type { Bench } from "../useBench";

export interface Pencil {
  /** What was proposed, or undefined where nothing was asked for. */
  found: ProposalOut | undefined;
  want: Want;
  asking: boolean;
  problem: string | undefined;
  previewing: boolean;
  ask: (want: Want) => void;
  inkAll: () => void;
  ink: (id: string) => void;
  rubOut: (id: string) => void;
  setPreviewing: (on: boolean) => void;
  putAway: () => void;
}

export function usePencil(bench: Bench): Pencil {
  const { id, entry_id: entry } = bench.state;
  const { acts } = bench;
  const [want, setWant] = useState<Want>("any");
  const [found, setFound] = useState<ProposalOut>();
  const [asking, setAsking] = useState(false);
  const [problem, setProblem] = useState<string>();
  const [previewing, setShown] = useState(false);
  const asked = useRef(0);
  const of = useRef<number>(undefined);

  const putAway = useCallback(() => {
    asked.current += 1;
    of.current = undefined;
    acts.preview();
    setShown(false);
    setFound(undefined);
    setAsking(false);
    setProblem(undefined);
  }, [acts]);

  const ask = useCallback(
    async (wanted: Want) => {
      const turn = ++asked.current;
      of.current = entry;
      setWant(wanted);
      setAsking(true);
      setProblem(undefined);
      try {
        const answer = await taken(
          client.POST("/api/pictures/{picture_id}/proposal", {
            params: { path: { picture_id: id } },
            body: { based_on: entry, edits: [], want: wanted },
          }),
        );
        if (turn === asked.current) setFound(answer);
      } catch (error) {
        if (turn === asked.current) setProblem(asRefused(error).message);
      }
      if (turn === asked.current) setAsking(false);
    },
    [entry, id],
  );

  // What was inked, rubbed out or drawn since changes what is left to propose.
  useEffect(() => {
    if (of.current !== undefined && of.current !== entry) void ask(want);
  }, [ask, entry, want]);

  useEffect(() => {
    acts.preview(previewing && found?.take ? (found.take as Edit) : undefined);
  }, [acts, found, previewing]);
  useEffect(() => () => acts.preview(), [acts]);

  const one = (reading: string) =>
    found?.proposal.readings.find((proposed) => proposed.reading.id === reading)?.reading;
  const without = (reading: string) =>
    setFound(
      (now) =>
        now && {
          ...now,
          proposal: {
            ...now.proposal,
            readings: now.proposal.readings.filter(({ reading: { id } }) => id !== reading),
          },
        },
    );

  return {
    found,
    want,
    asking,
    problem,
    previewing,
    ask: (wanted) => void ask(wanted),
    inkAll: () => {
      // What was refused a moment ago is not among them any more.
      const readings = found?.proposal.readings.map(({ reading }) => reading) ?? [];
      if (!found?.take || !readings.length) return;
      putAway();
      void acts.record({ ...found.take, readings } as Edit);
    },
    ink: (reading) => {
      const inked = one(reading);
      if (!inked) return;
      without(reading);
      void acts.record({ do: "ink_readings", readings: [inked] } as Edit);
    },
    rubOut: (reading) => {
      const line = one(reading);
      if (!line) return;
      without(reading);
      void acts.record({ do: "rub_out", points: [line.points[0], line.points.at(-1)] } as Edit);
    },
    setPreviewing: setShown,
    putAway,
  };
}
