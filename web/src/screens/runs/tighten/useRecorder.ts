import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { api, ask, Problem, type Schemas } from "../../../api/client";
import { entriesQuery, meQuery, nowQuery } from "../../../api/queries";
import { felt } from "../../../parts/feedback";
import { atDevice, newId } from "../../../parts/ids";

export type Report = Schemas["Report"];
export type Happened = Omit<Partial<Report>, "id"> & { kind: Report["kind"] };

const key = (run: string) => `tight.outbox.${run}`;

/**
 * Sends what happened, once. What was not acknowledged stays on the tablet, survives a reload, and goes out again
 * with the same id; only then is the key free for the next pull.
 */
export function useRecorder(run: string, by: string) {
  const queries = useQueryClient();
  const [kept, setKept] = useState<Report | null>(() => {
    const stored = localStorage.getItem(key(run));
    return stored ? (JSON.parse(stored) as Report) : null;
  });
  const send = useMutation({
    mutationFn: (report: Report) =>
      ask(api.POST("/api/runs/{run_id}/entries", { params: { path: { run_id: run } }, body: report })),
    onSuccess: (recorded, report) => {
      clear();
      if (report.kind === "pulled" || report.kind === "checked") felt();
      queries.setQueryData(nowQuery(run).queryKey, recorded.now);
      queries.invalidateQueries({ queryKey: entriesQuery(run).queryKey });
    },
    onError: (error) => {
      if (error instanceof Problem && error.field === "session") {
        queries.invalidateQueries({ queryKey: meQuery.queryKey }); // to the door; what is kept goes out afterwards
      } else if (error instanceof Problem && !error.away && error.ask === null) {
        clear();
        queries.invalidateQueries({ queryKey: nowQuery(run).queryKey });
      }
    },
  });
  const { mutate } = send;
  const clear = useCallback(() => {
    localStorage.removeItem(key(run));
    setKept(null);
  }, [run]);
  const put = useCallback(
    (report: Report) => {
      localStorage.setItem(key(run), JSON.stringify(report));
      setKept(report);
      mutate(report);
    },
    [run, mutate],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, for what an earlier visit left behind
  useEffect(() => {
    if (kept) mutate(kept);
  }, []);

  const record = useCallback(
    (happened: Happened) => put({ by, at_device: atDevice(), ...happened, id: newId() }),
    [put, by],
  );
  const question = kept && send.error instanceof Problem && send.error.ask ? send.error : null;
  return {
    record,
    /** Waiting for an answer from the server; nothing new can be recorded. */
    busy: kept !== null && question === null,
    /** The server is away; the last one is kept here. */
    away: send.failureReason instanceof Problem && send.failureReason.away && kept !== null,
    /** The server asks before it records. */
    question,
    affirm: (change: Partial<Report> = {}) => {
      if (kept && question?.ask) put({ ...kept, ...change, affirmed: [...(kept.affirmed ?? []), question.ask] });
    },
    /** The figure that is being asked about. */
    typed: kept?.reading ?? null,
    /** It did not happen: forget it, nothing was recorded. */
    drop: () => {
      clear();
      send.reset();
    },
    refusal: question || (send.error instanceof Problem && send.error.away) ? null : send.error,
  };
}

export type Recorder = ReturnType<typeof useRecorder>;
