import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { type LastingSocket, lastingSocket } from "../../../api/lastingSocket";
import { nowQuery } from "../../../api/queries";
import { courier } from "../../../core/courier";
import { type Said, tabletCore } from "../../../core/tabletCore";
import { useAway } from "../../../core/useUnsent";
import { felt } from "../../../parts/feedback";
import { useMe } from "../../../parts/useMe";
import { written } from "./keeping";

const STEP_MS = 50;
type Act = { type: string; manner: string };

/**
 * The simulated wrench of a run's panel: held by the server's clock, or by this page's while the server is away.
 * It is ready when a press is heard: from the first target on that it was told.
 */
export function usePanelWrench(run: string, show: (said: Said) => void): { act: (act: Act) => void; ready: boolean } {
  const socket = useRef<LastingSocket | null>(null);
  const [aimed, setAimed] = useState(false);
  const holding = useRef<ReturnType<typeof setInterval> | undefined>(undefined);
  const away = useAway();
  const me = useMe();
  const queries = useQueryClient();
  useEffect(() => {
    if (away) return () => clearInterval(holding.current);
    const opened = lastingSocket<{ type: string }>(
      `/api/runs/${run}/trial`,
      (said) => said.type === "target" && setAimed(true),
      () => setAimed(false),
    );
    socket.current = opened;
    return () => {
      socket.current = null;
      setAimed(false);
      opened.close();
    };
  }, [run, away]);
  const here = async (act: Act) => {
    for (const said of await tabletCore.wrench(run, act)) {
      if (said.type !== "pulled" && said.type !== "read") {
        show(said);
        continue;
      }
      const { report, now, words } = await tabletCore.tell(run, me, said);
      await written(run, report, words);
      queries.setQueryData(nowQuery(run).queryKey, now);
      felt();
      courier.wake(`run/${run}`);
    }
  };
  const act = (made: Act) => {
    if (!away || !tabletCore.holds(run)) {
      socket.current?.send(made);
      return;
    }
    clearInterval(holding.current);
    here(made);
    if (made.type === "hold") holding.current = setInterval(() => here(made), STEP_MS);
  };
  return { act, ready: away ? tabletCore.holds(run) : aimed };
}
