import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Problem } from "./client";
import { deliver } from "./deliver";
import { isWaiting, outbox } from "./outbox";
import { claimed } from "./useDelivery";

const LOOKED_EVERY_MS = 5_000;

/** Sends what a screen left behind that is no longer open. What a run waits for is sent by the run's own screen. */
export function useLeftBehind(): void {
  const queries = useQueryClient();
  useEffect(() => {
    let stopped = false;
    const look = async () => {
      for (const kept of outbox.all()) {
        if (stopped || claimed.has(kept.id) || kept.scope !== "" || !isWaiting(kept)) continue;
        claimed.add(kept.id);
        try {
          await deliver(kept);
          outbox.remove(kept.id);
          await queries.invalidateQueries();
        } catch (error) {
          if (!(error instanceof Problem) || !error.isAnswer || error.status === 401) continue;
          await outbox.put({ ...kept, state: "refused", why: `${error.fault} ${error.remedy}` });
        } finally {
          claimed.delete(kept.id);
        }
      }
    };
    look();
    const timer = setInterval(look, LOOKED_EVERY_MS);
    return () => {
      stopped = true;
      clearInterval(timer);
    };
  }, [queries]);
}
