import { useEffect, useState } from "react";
import type { Schemas } from "../../../api/client";
import { inPass } from "../../../parts/useLock";
import { useMe } from "../../../parts/useMe";
import { wasHere } from "./ComingBack";
import { useAwake } from "./useAwake";
import { useCalls } from "./useCalls";
import { useLine } from "./useLine";
import { useReading } from "./useReading";
import { type Paper, useRecorder } from "./useRecorder";

/** What the person at a run has opened, chosen and been asked; nothing of it is on file. */
export function useAtTheRun(sheet: Schemas["RunSheet"], now: Schemas["Now"], held: boolean) {
  const me = useMe();
  const [by, setBy] = useState(me.person.id);
  const [chosen, setChosen] = useState<string | null>(null);
  const [ending, setEnding] = useState(false);
  const [back, setBack] = useState(() => !wasHere(sheet.run) && now.returning !== null);
  const [typed, setTyping] = useState(false);
  const [rung, setRung] = useState<string | null>(null);
  const [onLine, setOnLine] = useState(false);
  const [paper, setPaper] = useState<Paper | null>(null);
  const recorder = useRecorder({ run: sheet.run, seq: now.seq, by, held, paper });
  const { live, needle, trouble, show } = useLine(sheet.run);
  const reading = useReading(now);
  useAwake();
  useCalls(now.prompt);
  const { prompt } = now;
  useEffect(() => {
    inPass(now.in_pass);
    return () => inPass(false);
  }, [now.in_pass]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a choice is for one pull
  useEffect(() => {
    setChosen(null);
    setRung(null);
  }, [prompt.pull, now.seq]);
  const left = back || now.paused ? now.returning : null;
  const asked = recorder.question !== null;
  return {
    ...{
      by,
      setBy,
      chosen,
      setChosen,
      ending,
      setEnding,
      rung,
      setRung,
      onLine,
      setOnLine,
      recorder,
      live,
      needle,
      reading,
      trouble,
      paper,
      setPaper,
      show,
    },
    /** The fastener that is meant: the one that was tapped, else the one that comes. */
    label: chosen ?? prompt.fastener ?? null,
    /** What is asked of somebody who comes back. */
    left: left ?? null,
    answered: () => setBack(false),
    /** Whether a figure of a wrench is typed now. */
    typing: typed,
    setTyping,
    /** Whether a question stands in the place of the keys. */
    quiet: left !== null || ending || typed || asked,
  };
}

export type AtTheRun = ReturnType<typeof useAtTheRun>;
