import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { Problem } from "../../../api/client";
import { isWaiting, outbox } from "../../../api/outbox";
import { entriesQuery, meQuery, nowQuery } from "../../../api/queries";
import { courier, type Heard } from "../../../core/courier";
import { tabletCore } from "../../../core/tabletCore";
import { useUnsent } from "../../../core/useUnsent";
import { felt } from "../../../parts/feedback";
import { atDevice, newId } from "../../../parts/ids";
import { useMe } from "../../../parts/useMe";
import { judged, written } from "./keeping";
import type { Happened, Recorder, Report } from "./recorder";

/** Who did on paper what is entered now, and when. */
export type Paper = { by: string; at: string };
type At = {
  busy: boolean;
  /** What the last press was made on: the number of the newest entry that the screen showed. */
  on: number;
  asked: Report | null;
  problem: Problem | null;
  /** Something was pressed before the last press was answered. */
  early: boolean;
};
const FREE: At = { busy: false, on: -1, asked: null, problem: null, early: false };
const NOT_TAKEN = new Problem(409, {
  fault: "A press was not taken: it came before the last one was answered.",
  remedy: "Press for what stands on the key.",
});

type Run = {
  run: string;
  /** The number of the newest entry that the screen shows. */
  seq: number;
  by: string;
  held: boolean;
  paper: Paper | null;
};

/**
 * Records what happened in a run, once. Every entry is written down on the tablet before the screen moves on, and the courier
 * brings it to the server. Where the tablet holds the run its own core judges at once. Else nothing more is taken until the
 * answer came and the screen shows what it made of the run. What the core or the server asks waits for an answer.
 */
export function useRecorder({ run, seq, by, held, paper }: Run): Recorder {
  const queries = useQueryClient();
  const me = useMe();
  const [at, setAt] = useState(FREE);
  const scope = `run/${run}`;
  const { queryKey } = nowQuery(run);
  const { away } = useUnsent();
  const waits = useSyncExternalStore(outbox.watch, () =>
    outbox.all().some((kept) => kept.scope === scope && kept.local && isWaiting(kept)),
  );
  const isHeld = useRef(held);
  isHeld.current = held;
  useEffect(() => {
    const { queryKey } = nowQuery(run);
    const heard = async ({ kept, problem, left }: Heard) => {
      if (problem?.status === 401) queries.invalidateQueries({ queryKey: meQuery.queryKey });
      else if (problem) {
        setAt({ ...FREE, asked: problem.ask ? (kept.body as Report) : null, problem });
        if (!problem.ask && isHeld.current) queries.setQueryData(queryKey, await tabletCore.forget(run, kept.id));
      } else if (!isHeld.current) felt();
      if (left > 0) return;
      queries.invalidateQueries({ queryKey });
      queries.invalidateQueries({ queryKey: entriesQuery(run).queryKey });
    };
    return courier.listen(scope, heard);
  }, [scope, run, queries]);
  const keep = async (report: Report): Promise<void> => {
    setAt({ ...FREE, busy: true, on: seq });
    try {
      if (held) {
        queries.setQueryData(queryKey, await judged(run, me, report));
        setAt(FREE);
        if (report.kind === "pulled" || report.kind === "checked") felt();
      } else {
        await written(run, report, "kept here; the server has not judged it yet");
        setAt((before) => ({ ...before, busy: false }));
      }
      courier.wake(scope);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      setAt({ ...FREE, asked: error.ask === null ? null : report, problem: error });
    }
  };
  const question = at.asked ? at.problem : null;
  // What an earlier visit left behind is waited for until it is sent; a press of this one until the screen shows what came of it.
  const isUnanswered = !held && at.problem === null && (at.on < 0 ? waits : seq <= at.on);
  const busy = at.busy || isUnanswered;
  return {
    record: (happened: Happened) => {
      if (question) return null;
      if (busy) {
        setAt((before) => ({ ...before, early: !away })); // it would be for what the screen does not show yet
        courier.wake(scope);
        return null;
      }
      const onPaper = paper ? { by: paper.by, at_device: paper.at, from_paper: true } : {};
      const unproven = me.unproven ? { unproven: true } : {};
      return keep({ by, at_device: atDevice(), ...happened, ...onPaper, ...unproven, id: newId() });
    },
    busy,
    away: isUnanswered && away,
    retry: () => courier.wake(scope),
    question,
    affirm: (change = {}) =>
      at.asked && keep({ ...at.asked, ...change, affirmed: [...(at.asked.affirmed ?? []), question?.ask ?? ""] }),
    typed: at.asked?.reading ?? null,
    drop: async () => {
      setAt(FREE); // the key is free at once
      if (!at.asked) return;
      await outbox.remove(at.asked.id);
      if (held) queries.setQueryData(queryKey, await tabletCore.forget(run, at.asked.id));
      courier.wake(scope);
    },
    refusal: question ? null : (at.problem ?? (at.early ? NOT_TAKEN : null)),
    onTablet: held,
  };
}
