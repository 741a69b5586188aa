import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import type { Schemas } from "../../api/client";
import { jobHereQuery, jobQuery, nowQuery } from "../../api/queries";
import { begunOn, hold } from "../../core/readNow";
import { tabletCore } from "../../core/tabletCore";
import { useMe } from "../../parts/useMe";
import { socketUrl } from "../runs/tighten/useLine";

const TRIES_AGAIN_MS = 1_000;

/** The job of a machine as it stands for this tablet: all its runs are held here, and what others record is heard at once. */
export function useJob(machine: string): Schemas["JobNow"] | undefined {
  const queries = useQueryClient();
  const me = useMe();
  const told = useQuery(jobQuery(machine));
  const runs = [...new Set([...(told.data?.runs.map((run) => run.run) ?? []), ...begunOn(machine)])];
  const names = runs.join(" ");
  const ready = useSyncExternalStore(tabletCore.watch, () => tabletCore.isReady);
  const held = useSyncExternalStore(
    tabletCore.watch,
    () => runs.length > 0 && runs.every((run) => tabletCore.holds(run)),
  );
  const here = useQuery({ ...jobHereQuery(machine, runs, me.device), enabled: held });
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for a run, by whoever is signed in then
  useEffect(() => {
    if (!ready) return;
    const begin = async () => {
      for (const run of names.split(" ").filter(Boolean))
        if (!tabletCore.holds(run)) await hold(run, me).catch(() => undefined); // asked again with the next change
    };
    begin();
  }, [ready, names, told.dataUpdatedAt]);
  useEffect(() => {
    if (names === "") return;
    let socket: WebSocket | null = null;
    let again: ReturnType<typeof setTimeout> | undefined;
    let closed = false;
    const open = () => {
      const query = names.split(" ").map((run) => `run=${run}`);
      socket = new WebSocket(socketUrl(`/api/watch?${query.join("&")}`));
      socket.onmessage = async (event) => {
        const said = JSON.parse(String(event.data));
        if (said.type !== "changed") return;
        if (said.seq > (tabletCore.sealed(said.run) ?? 0)) await queries.fetchQuery(nowQuery(said.run));
        queries.invalidateQueries({ queryKey: ["job", machine] });
      };
      socket.onclose = () => {
        if (!closed) again = setTimeout(open, TRIES_AGAIN_MS);
      };
    };
    open();
    return () => {
      closed = true;
      clearTimeout(again);
      socket?.close();
    };
  }, [names, machine, queries]);
  return held ? (here.data ?? told.data) : told.data;
}
