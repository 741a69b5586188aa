import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { nowQuery } from "../../../api/queries";
import { courier } from "../../../core/courier";
import { type Said, tabletCore } from "../../../core/tabletCore";
import { useAway } from "../../../core/useUnsent";
import { felt } from "../../../parts/feedback";
import { useMe } from "../../../parts/useMe";
import { socketUrl } from "./useLine";
import { written } from "./useLocalRecorder";

const STEP_MS = 50;
type Act = { type: string; manner: string };

/** The simulated wrench of a run's panel: held by the server's clock, or by this page's while the server is away. */
export function usePanelWrench(run: string, show: (said: Said) => void): (act: Act) => void {
  const socket = useRef<WebSocket | null>(null);
  const holding = useRef<ReturnType<typeof setInterval> | undefined>(undefined);
  const away = useAway();
  const me = useMe();
  const queries = useQueryClient();
  useEffect(() => {
    if (away) return () => clearInterval(holding.current);
    const opened = new WebSocket(socketUrl(`/api/runs/${run}/trial`));
    socket.current = opened;
    return () => {
      socket.current = null;
      opened.close();
    };
  }, [run, away]);
  const here = async (act: Act) => {
    for (const said of await tabletCore.wrench(run, act)) {
      if (said.type !== "pulled") {
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
  return (act) => {
    if (!away || !tabletCore.holds(run)) {
      if (socket.current?.readyState === WebSocket.OPEN) socket.current.send(JSON.stringify(act));
      return;
    }
    clearInterval(holding.current);
    here(act);
    if (act.type === "hold") holding.current = setInterval(() => here(act), STEP_MS);
  };
}
