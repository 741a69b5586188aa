import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { address } from "../../../api/addresses";
import { Problem, type Schemas } from "../../../api/client";
import { judging, type Kept, outbox } from "../../../api/outbox";
import { entriesQuery, nowQuery } from "../../../api/queries";
import { courier } from "../../../core/courier";
import type { Me } from "../../../core/me";
import { tabletCore } from "../../../core/tabletCore";
import { felt } from "../../../parts/feedback";
import { atDevice, newId } from "../../../parts/ids";
import { useMe } from "../../../parts/useMe";
import type { Happened, Recorder, Report } from "./recorder";

type At = { busy: boolean; asked: Report | null; problem: Problem | null };
const FREE: At = { busy: false, asked: null, problem: null };

function keptAs(run: string, report: Report): Kept {
  const query = report.how === "wire" ? { brief: true, trial: true } : { brief: true };
  const to = address("/api/runs/{run_id}/entries", { path: { run_id: run }, query });
  const common = { method: "POST" as const, scope: `run/${run}`, local: true, photos: report.files ?? [] };
  return { ...common, id: report.id, address: to, body: report, at: report.at_device };
}

/** Write an entry down. What cannot be written down did not happen, and says so. */
export async function written(run: string, report: Report, what: string): Promise<void> {
  try {
    await outbox.put({ ...keptAs(run, report), what });
  } catch (error) {
    await tabletCore.forget(run, report.id);
    throw error;
  }
}

/** Judge a press and write it down, side by side: the screen moves on when both are done. */
export async function judged(run: string, me: Me, report: Report): Promise<Schemas["Now"]> {
  const kept = keptAs(run, report);
  judging.add(report.id);
  const [told, put] = await Promise.allSettled([tabletCore.report(run, me, report), outbox.put(kept)]);
  judging.delete(report.id);
  if (told.status === "rejected") {
    await outbox.remove(report.id);
    throw told.reason;
  }
  if (put.status === "rejected") {
    await tabletCore.forget(run, report.id);
    throw put.reason;
  }
  outbox.put({ ...kept, what: told.value.words }).catch(() => undefined); // the words are for the outbox's screen only
  return told.value.now;
}

/**
 * Records on the tablet: its own core judges at once, the entry is written down before the screen moves on, and goes to the
 * server by itself. What the core or the server asks waits for an answer.
 */
export function useLocalRecorder(run: string, by: string): Recorder {
  const queries = useQueryClient();
  const me = useMe();
  const [at, setAt] = useState(FREE);
  const scope = `run/${run}`;
  const { queryKey } = nowQuery(run);
  useEffect(
    () =>
      courier.listen(scope, async ({ kept, problem, left }) => {
        if (problem?.ask) setAt({ busy: false, asked: kept.body as Report, problem });
        else if (problem && problem.status !== 401) {
          setAt({ busy: false, asked: null, problem });
          queries.setQueryData(queryKey, await tabletCore.forget(run, kept.id));
        }
        if (left > 0) return;
        queries.invalidateQueries({ queryKey });
        queries.invalidateQueries({ queryKey: entriesQuery(run).queryKey });
      }),
    [scope, run, queries, queryKey],
  );
  const judge = async (report: Report) => {
    setAt({ ...FREE, busy: true });
    try {
      queries.setQueryData(queryKey, await judged(run, me, report));
      setAt(FREE);
      if (report.kind === "pulled" || report.kind === "checked") felt();
      courier.wake(scope);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      setAt({ busy: false, asked: error.ask === null ? null : report, problem: error });
    }
  };
  const question = at.asked ? at.problem : null;
  return {
    record: (happened: Happened) =>
      judge({ by, at_device: atDevice(), ...happened, ...(me.unproven ? { unproven: true } : {}), id: newId() }),
    busy: at.busy,
    away: false,
    retry: () => courier.wake(scope),
    question,
    affirm: (change = {}) =>
      at.asked && judge({ ...at.asked, ...change, affirmed: [...(at.asked.affirmed ?? []), question?.ask ?? ""] }),
    typed: at.asked?.reading ?? null,
    drop: async () => {
      setAt(FREE); // the key is free at once
      if (!at.asked) return;
      await outbox.remove(at.asked.id);
      queries.setQueryData(queryKey, await tabletCore.forget(run, at.asked.id));
      courier.wake(scope);
    },
    refusal: question ? null : at.problem,
    onTablet: true,
  };
}
