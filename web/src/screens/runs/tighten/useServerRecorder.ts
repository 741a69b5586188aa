import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { address } from "../../../api/addresses";
import { Problem } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { outbox } from "../../../api/outbox";
import { entriesQuery, nowQuery } from "../../../api/queries";
import { felt } from "../../../parts/feedback";
import type { Happened, Recorder, Report } from "./recorder";

/**
 * Sends what happened in a run, once. What was not acknowledged stays on the tablet, survives a reload, and goes out again
 * with the same id; only then is the key free for the next pull.
 */
export function useServerRecorder(run: string, by: string): Recorder {
  const queries = useQueryClient();
  const scope = `run/${run}`;
  const command = useCommand({
    to: address("/api/runs/{run_id}/entries", { path: { run_id: run } }),
    scope,
    changes: [],
    body: (pressed, happened: Happened): Report => ({ by, ...pressed, ...happened, id: pressed.id }),
    done: ({ now }, { kind }) => {
      if (kind === "pulled" || kind === "checked") felt();
      if (now) queries.setQueryData(nowQuery(run).queryKey, now);
      queries.invalidateQueries({ queryKey: entriesQuery(run).queryKey });
    },
    refused: (error) => {
      if (error instanceof Problem && error.ask === null)
        queries.invalidateQueries({ queryKey: nowQuery(run).queryKey });
    },
  });
  const { press, again, drop, send, kept, error } = command;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, for what an earlier visit left behind
  useEffect(() => {
    const left = outbox.all().find((each) => each.scope === scope && !each.local);
    if (left) send(left);
  }, []);
  const question = error instanceof Problem && error.ask !== null ? error : null;
  const body = kept?.body as Report | undefined;
  return {
    record: useCallback((happened: Happened) => press(happened), [press]),
    /** Waiting for a clear answer; nothing new can be recorded. */
    busy: kept !== null && question === null,
    /** It could not be delivered; it is kept here, and the key sends it again. */
    away: command.unsent !== null,
    /** Try to deliver what is kept at once. */
    retry: () => kept && send(kept),
    /** The server asks before it records. */
    question,
    affirm: (change: Partial<Report> = {}) =>
      again((sent) => ({ ...sent, ...change, affirmed: [...(sent.affirmed ?? []), question?.ask ?? ""] })),
    /** The figure that is being asked about. */
    typed: body?.reading ?? null,
    /** It did not happen: forget it, nothing was recorded. */
    drop,
    refusal: question || command.unsent ? null : error,
    onTablet: false,
  };
}
