import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { lastingSocket } from "../../../api/lastingSocket";
import { curvesQuery, entriesQuery, nowQuery } from "../../../api/queries";
import { type Changed, type Said, tabletCore } from "../../../core/tabletCore";
import { active } from "../../../parts/useLock";

export type Live = { torque: number; unit: string; angle_deg: number };
/** Where the needle of a gauge on the line stands. */
export type Needle = { figure: number; unit: string };
const SHOWN_FOR_MS = 1_500;

/** Looks on: reads the run again when something was recorded anywhere, and shows what a wrench shows while it is held. */
export function useLine(run: string) {
  const queries = useQueryClient();
  const [live, setLive] = useState<Live | null>(null);
  const [needle, setNeedle] = useState<Needle | null>(null);
  const [trouble, setTrouble] = useState("");
  const hide = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const flash = useCallback((shown: Live) => {
    setLive(shown);
    clearTimeout(hide.current);
    hide.current = setTimeout(() => setLive(null), SHOWN_FOR_MS);
  }, []);
  const swing = useCallback((shown: Needle) => {
    setNeedle(shown);
    clearTimeout(hide.current);
    hide.current = setTimeout(() => setNeedle(null), SHOWN_FOR_MS);
  }, []);
  /** What a wrench says: on the line, or that of this page while the server is away. */
  const show = useCallback(
    (said: Said) => {
      if (said.type === "live") flash(said);
      else if (said.type === "needle") swing(said);
      else if (said.type === "trouble") setTrouble(said.what);
    },
    [flash, swing],
  );
  useEffect(() => {
    const socket = lastingSocket<Changed | Said>(`/api/watch?run=${run}`, (said) => {
      active();
      if (said.type !== "changed") {
        show(said);
        return;
      }
      const known = tabletCore.sealed(run) ?? queries.getQueryData(nowQuery(run).queryKey)?.seq ?? 0;
      if (said.seq <= known) return; // this tablet's own, of which it has read the answer
      queries.invalidateQueries({ queryKey: nowQuery(run).queryKey });
      queries.invalidateQueries({ queryKey: entriesQuery(run).queryKey });
      queries.invalidateQueries({ queryKey: curvesQuery(run).queryKey });
    });
    return () => {
      socket.close();
      clearTimeout(hide.current);
    };
  }, [run, queries, show]);
  return { live, needle, trouble, show };
}
