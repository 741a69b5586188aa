import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { Problem } from "../../../api/client";
import { isWaiting, outbox } from "../../../api/outbox";
import { entriesQuery, nowQuery } from "../../../api/queries";
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
type At = { busy: boolean; asked: Report | null; problem: Problem | null };
const FREE: At = { busy: false, asked: null, problem: null };

/**
 * Records what happened in a run, once. Every entry is written down on the tablet before the screen moves on, and the courier
 * brings it to the server. Where the tablet holds the run its own core judges at once; else the server's answer is waited for,
 * and nothing else is taken until it came. What one of them asks waits for an answer.
 */
export function useRecorder(run: string, by: string, held: boolean, paper: Paper | null): Recorder {
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
    const heard = async ({ kept, problem, left }: Heard) => {
      if (problem?.ask) setAt({ busy: false, asked: kept.body as Report, problem });
      else if (problem && problem.status !== 401) {
        setAt({ busy: false, asked: null, problem });
        if (isHeld.current) queries.setQueryData(queryKey, await tabletCore.forget(run, kept.id));
      }
      if (left > 0) return;
      await queries.invalidateQueries({ queryKey });
      queries.invalidateQueries({ queryKey: entriesQuery(run).queryKey });
      if (!problem && !isHeld.current) {
        felt();
        setAt((before) => (before.busy ? FREE : before));
      }
    };
    return courier.listen(scope, heard);
  }, [scope, run, queries, queryKey]);
  const keep = async (report: Report) => {
    setAt({ ...FREE, busy: true });
    try {
      if (held) {
        queries.setQueryData(queryKey, await judged(run, me, report));
        setAt(FREE);
        if (report.kind === "pulled" || report.kind === "checked") felt();
      } else await written(run, report, "");
      courier.wake(scope);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      setAt({ busy: false, asked: error.ask === null ? null : report, problem: error });
    }
  };
  const question = at.asked ? at.problem : null;
  const isUnanswered = !held && (at.busy || waits) && question === null;
  return {
    record: (happened: Happened) => {
      const of = paper ? { by: paper.by, at_device: paper.at, from_paper: true } : {};
      const unproven = me.unproven ? { unproven: true } : {};
      return keep({ by, at_device: atDevice(), ...happened, ...of, ...unproven, id: newId() });
    },
    busy: held ? at.busy : isUnanswered,
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
    refusal: question ? null : at.problem,
    onTablet: held,
  };
}
