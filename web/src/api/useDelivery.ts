import { useCallback, useEffect, useRef, useState } from "react";
import { Problem } from "./client";
import { deliver } from "./deliver";
import { type Kept, outbox } from "./outbox";

/** How long until an unsent command is tried again, longer each time. */
const FIRST_MS = 1_500;
const LONGEST_MS = 10_000;

/** Commands that a screen is sending now; what is in the outbox besides was left behind. */
export const claimed = new Set<string>();

type At<Answer> = { kept: Kept | null; unsent: Problem | null; error: unknown; data: Answer | undefined };
type Ends<Answer> = { done: (answer: Answer, kept: Kept) => unknown; refused: (error: unknown) => void };

/**
 * Brings a command to the server: it is tried until there is a clear answer, and stays in the outbox until then. A question of
 * the server is an answer too; a command of a screen with a scope then waits for the person.
 */
export function useDelivery<Answer>(ends: Ends<Answer>) {
  const nothing: At<Answer> = { kept: null, unsent: null, error: null, data: undefined };
  const [at, setAt] = useState(nothing);
  const latest = useRef(ends);
  latest.current = ends;
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const here = useRef(true);
  const attempt = useCallback(async (kept: Kept, tries: number) => {
    clearTimeout(timer.current);
    claimed.add(kept.id);
    try {
      const data = await deliver<Answer>(outbox.get(kept.id) ?? kept); // as it was written down, with its mark
      outbox.remove(kept.id);
      claimed.delete(kept.id);
      await latest.current.done(data, kept);
      if (here.current) setAt({ kept: null, unsent: null, error: null, data });
    } catch (error) {
      if (!(error instanceof Problem)) {
        setAt({ kept: null, unsent: null, error, data: undefined });
        throw error;
      }
      if (!error.isAnswer) {
        if (!here.current) return;
        setAt({ kept, unsent: error, error: null, data: undefined });
        timer.current = setTimeout(() => attempt(kept, tries + 1), Math.min(FIRST_MS * 1.5 ** tries, LONGEST_MS));
        return;
      }
      const waits = error.ask !== null && kept.scope !== "";
      if (!waits && error.status !== 401) outbox.remove(kept.id); // whoever signs in next sends it
      claimed.delete(kept.id);
      if (!here.current) return;
      setAt({ kept: waits ? kept : null, unsent: null, error, data: undefined });
      latest.current.refused(error);
    }
  }, []);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
      clearTimeout(timer.current);
      if (sending.current) claimed.delete(sending.current); // whoever comes next sends it
    };
  }, []);
  const sending = useRef<string | null>(null);
  sending.current = at.kept?.id ?? null;
  const send = useCallback(
    (kept: Kept) => {
      setAt({ kept, unsent: null, error: null, data: undefined });
      return attempt(kept, 0);
    },
    [attempt],
  );
  /** It was pressed: the key is taken at once. It goes out when what belongs before it is done, or says why it cannot. */
  const press = useCallback(
    async (kept: Kept, before: () => Promise<unknown>) => {
      setAt({ kept, unsent: null, error: null, data: undefined });
      try {
        await before();
      } catch (error) {
        setAt({ kept: null, unsent: null, error, data: undefined });
        return;
      }
      await send(kept);
    },
    [send],
  );
  const drop = useCallback(() => {
    clearTimeout(timer.current);
    if (sending.current) {
      outbox.remove(sending.current);
      claimed.delete(sending.current);
    }
    setAt({ kept: null, unsent: null, error: null, data: undefined });
  }, []);
  return { ...at, press, send, drop };
}
