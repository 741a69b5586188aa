import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { nowQuery } from "../api/queries";
import { useMe } from "../parts/useMe";
import { takeAlong } from "./along";
import { hold } from "./readNow";
import { tabletCore } from "./tabletCore";

/** At a run soon; on any other screen once somebody can work there. */
const BEGINS_AFTER_MS = { soon: 500, later: 4_000 };
const TRIES_AGAIN_MS = 3_000;

/** Fetches the core once the screen stands, and what is to be taken along. */
export function useCore(begins: keyof typeof BEGINS_AFTER_MS = "soon"): boolean {
  useEffect(() => {
    takeAlong();
    const timer = setTimeout(() => tabletCore.begin(), BEGINS_AFTER_MS[begins]);
    return () => clearTimeout(timer);
  }, [begins]);
  return useSyncExternalStore(tabletCore.watch, () => tabletCore.isReady);
}

/** Whether this tab has a run to itself: of several on one tablet, one records. A browser without locks has to do without. */
export function useAlone(run: string): boolean {
  const [alone, setAlone] = useState(!navigator.locks);
  useEffect(() => {
    if (!navigator.locks) return;
    let free = () => {};
    const given = new AbortController();
    const mine = new Promise<void>((resolve) => {
      free = resolve;
    });
    navigator.locks
      .request(`tight.run/${run}`, { signal: given.signal }, () => {
        setAlone(true);
        return mine;
      })
      .catch(() => undefined); // the screen was left before it was this tab's turn
    return () => {
      given.abort();
      free();
      setAlone(false);
    };
  }, [run]);
  return alone;
}

/** Whether the tablet holds a run and judges it itself. */
export function useHeld(run: string): boolean {
  const me = useMe();
  const queries = useQueryClient();
  const ready = useCore();
  const held = useSyncExternalStore(tabletCore.watch, () => tabletCore.holds(run));
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
