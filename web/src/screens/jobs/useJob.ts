import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import type { Schemas } from "../../api/client";
import { lastingSocket } from "../../api/lastingSocket";
import { jobHereQuery, jobQuery, nowQuery } from "../../api/queries";
import { begunOn, hold } from "../../core/readNow";
import { type Changed, type Said, tabletCore } from "../../core/tabletCore";
import { useMe } from "../../parts/useMe";

const sealedOf = (run: string): number => tabletCore.sealed(run) ?? 0;

/**
 * Reads a run until this tablet knows an entry of it, if it does not yet. Twice at most: the first reading may be one that was
 * begun before the entry was made.
 *
 * @returns whether anything was read.
 */
async function readUpTo(queries: QueryClient, run: string, seq: number): Promise<boolean> {
  const before = sealedOf(run);
  for (let tries = 0; tries < 2 && sealedOf(run) < seq; tries += 1)
    await queries.fetchQuery(nowQuery(run)).catch(() => undefined); // the server is away: it is read with the next answer
  return sealedOf(run) > before;
}

/**
 * The job of a machine as this tablet sees it. All its runs are held here, and what others record is read as soon as the server
 * says so. If a message is lost, the entry is read after the next answer of the server, within two seconds.
 */
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
  // biome-ignore lint/correctness/useExhaustiveDependencies: it runs when the core is ready, when a run is added, and after each answer of the server; not when somebody else signs in
  useEffect(() => {
    if (!ready) return;
    const toldSeq = new Map(told.data?.runs.map(({ run, seq }) => [run, seq]));
    const catchUp = async () => {
      let isNew = false;
      for (const run of names.split(" ").filter(Boolean)) {
        if (!tabletCore.holds(run)) await hold(run, me).catch(() => undefined); // asked again with the next change
        if (await readUpTo(queries, run, toldSeq.get(run) ?? 0)) isNew = true;
      }
      if (isNew) queries.invalidateQueries({ queryKey: ["job", machine, "here"] });
    };
    catchUp();
  }, [ready, names, told.dataUpdatedAt]);
  useEffect(() => {
    if (names === "") return;
    const query = names.split(" ").map((run) => `run=${run}`);
    const socket = lastingSocket<Changed | Said>(`/api/watch?${query.join("&")}`, async (said) => {
      if (said.type !== "changed") return;
      await readUpTo(queries, said.run, said.seq);
      queries.invalidateQueries({ queryKey: ["job", machine] });
    });
    return socket.close;
  }, [names, machine, queries]);
  return held ? (here.data ?? told.data) : told.data;
}
