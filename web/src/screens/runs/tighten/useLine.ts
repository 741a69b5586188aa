import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { curvesQuery, entriesQuery, nowQuery } from "../../../api/queries";
import { type Said, tabletCore } from "../../../core/tabletCore";
import { active } from "../../../parts/useLock";

export type Live = { torque: number; unit: string; angle_deg: number };
const SHOWN_FOR_MS = 1_500;
const TRIES_AGAIN_MS = 1_000;

/** Where a socket of the same server is. */
export function socketUrl(path: string): string {
  return `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}${path}`;
}

/** Looks on: reads the run again when something was recorded anywhere, and shows what a wrench shows while it is held. */
export function useLine(run: string) {
  const queries = useQueryClient();
  const [live, setLive] = useState<Live | null>(null);
  const [trouble, setTrouble] = useState("");
  const hide = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const flash = useCallback((shown: Live) => {
    setLive(shown);
    clearTimeout(hide.current);
    hide.current = setTimeout(() => setLive(null), SHOWN_FOR_MS);
  }, []);
  /** What the simulated wrench of this page says while the server is away. */
  const show = (said: Said) => {
    if (said.type === "live") flash(said);
    else if (said.type === "trouble") setTrouble(said.what);
  };
  useEffect(() => {
    let socket: WebSocket | null = null;
    let again: ReturnType<typeof setTimeout> | undefined;
    let closed = false;
    const open = () => {
      socket = new WebSocket(socketUrl(`/api/watch?run=${run}`));
      socket.onmessage = (event) => {
        const said = JSON.parse(String(event.data));
        active();
        if (said.type === "changed") {
          const known = tabletCore.sealed(run) ?? queries.getQueryData(nowQuery(run).queryKey)?.seq ?? 0;
          if (said.seq <= known) return; // this tablet's own, of which it has read the answer
          queries.invalidateQueries({ queryKey: nowQuery(run).queryKey });
          queries.invalidateQueries({ queryKey: entriesQuery(run).queryKey });
          queries.invalidateQueries({ queryKey: curvesQuery(run).queryKey });
        } else if (said.type === "trouble") {
          setTrouble(said.what);
        } else {
          flash({ torque: said.torque, unit: said.unit, angle_deg: said.angle_deg });
        }
      };
      socket.onclose = () => {
        if (!closed) again = setTimeout(open, TRIES_AGAIN_MS);
      };
    };
    open();
    return () => {
      closed = true;
      clearTimeout(again);
      clearTimeout(hide.current);
      socket?.close();
    };
  }, [run, queries, flash]);
  return { live, trouble, show };
}
