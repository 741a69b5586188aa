import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { address } from "../../api/addresses";
import { Problem, type Schemas } from "../../api/client";
import { type Pressed, useCommand } from "../../api/command";
import { nowQuery } from "../../api/queries";
import { courier } from "../../core/courier";
import { tabletCore } from "../../core/tabletCore";
import { atDevice, newId } from "../../parts/ids";
import { useMe } from "../../parts/useMe";
import { judged } from "../runs/tighten/keeping";

export type InRun = { run: string; happened: Partial<Schemas["Report"]> & { kind: Schemas["Report"]["kind"] } };

/** What is done to the machine, as it is recorded in each run that waits for it. */
export const inEachRun = ({ act, runs }: Schemas["MachineTask"]): readonly InRun[] =>
  runs.map(({ run, pull, seq }) => ({
    run,
    happened: { kind: act.kind, how: act.how ?? null, option: act.option ?? null, pull, claimed_seq: seq + 1 },
  }));

/**
 * Records one thing in several runs with one press: by the tablet itself where it holds them all, else by the server. What was
 * recorded before something was refused stands; the next press is for the rest.
 */
export function useEach(machine: string) {
  const queries = useQueryClient();
  const me = useMe();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const reportsOf = (each: readonly InRun[], { at_device }: Omit<Pressed, "id">) =>
    each.map(({ run, happened }) => ({
      run,
      report: { by: me.person.id, at_device, ...(me.unproven ? { unproven: true } : {}), ...happened, id: newId() },
    }));
  const command = useCommand({
    body: (pressed, each: readonly InRun[]) => ({ reports: reportsOf(each, pressed) }),
    to: address("/api/jobs/entries"),
    changes: [["job", machine], ["machine"], ["run"]],
  });
  const here = async (each: readonly InRun[]) => {
    setBusy(true);
    setProblem(null);
    try {
      for (const { run, report } of reportsOf(each, { at_device: atDevice() })) {
        queries.setQueryData(nowQuery(run).queryKey, await judged(run, me, report));
        courier.wake(`run/${run}`);
      }
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      setProblem(error);
    } finally {
      setBusy(false);
      queries.invalidateQueries({ queryKey: ["job", machine] });
    }
  };
  const record = (each: readonly InRun[]) => {
    if (busy || command.isPending) return;
    if (each.every(({ run }) => tabletCore.holds(run))) here(each);
    else command.press(each);
  };
  return { record, busy: busy || command.isPending, error: problem ?? command.error };
}
