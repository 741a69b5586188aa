import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { nowQuery } from "../api/queries";
import { useMe } from "../parts/useMe";
import { hold } from "./readNow";
import { tabletCore } from "./tabletCore";

const BEGINS_AFTER_MS = 500;
const TRIES_AGAIN_MS = 3_000;

/** Whether the tablet holds a run and judges it itself. It begins to once the screen stands. */
export function useHeld(run: string): boolean {
  const me = useMe();
  const queries = useQueryClient();
  const ready = useSyncExternalStore(tabletCore.watch, () => tabletCore.isReady);
  const held = useSyncExternalStore(tabletCore.watch, () => tabletCore.holds(run));
  useEffect(() => {
    const timer = setTimeout(() => tabletCore.begin(), BEGINS_AFTER_MS);
    return () => clearTimeout(timer);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for a run, by whoever is signed in when it is opened
  useEffect(() => {
    if (!ready || held) return;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const begin = () =>
      hold(run, me).then(
        (now) => queries.setQueryData(nowQuery(run).queryKey, now),
        () => {
          timer = setTimeout(begin, TRIES_AGAIN_MS);
        },
      );
    begin();
    return () => clearTimeout(timer);
  }, [ready, held, run]);
  return held;
}
