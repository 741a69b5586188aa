import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams, useSearchParams } from "react-router";
import { machineQuery, offerQuery, specQuery, toolsQuery } from "../../../api/queries";
import { lately } from "./lately";
import { choiceOf } from "./tooling";
import { useChosen } from "./useChosen";

/** Everything of the screen before a run; `error` while something could not be read, null data while it is read. */
export function usePreparing() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const machineId = search.get("machine") ?? "";
  const procedure = search.get("procedure") ?? "tighten";
  const file = useQuery(specQuery(id));
  const machine = useQuery(machineQuery(machineId));
  const crib = useQuery(toolsQuery);
  const chosen = useChosen(file.data?.places ?? [], search.get("place"), machineId);
  const { row, position, supports, load } = chosen;
  const offered = useQuery(
    offerQuery(id, {
      ...{ procedure, position, supports, machine: machineId, of: row.of, steps: row.steps },
      on_its_end: row.end,
      tilt_deg: row.tilt,
      axle_load_kg: Number(load) || null,
    }),
  );
  const named = search.get("wrench") ?? lately.at(machineId)?.wrench;
  const usual = offered.data?.choices.find((choice) => choice.wrench.name === named && !choice.refused);
  const { rows, setRows } = chosen;
  // What the joint was tightened with is taken at once, if it still can do it; another is one tap away.
  useEffect(() => {
    const [first] = rows;
    if (!usual || !first || rows.length > 1 || first.wrench !== null) return;
    setRows([{ ...first, wrench: usual.wrench.id, unit: usual.wrench.unit }], first.key);
  }, [usual, rows, setRows]);
  const error = file.error ?? machine.error ?? crib.error ?? offered.error;
  if (!file.data || !machine.data || !crib.data || !offered.data) return { error, preparing: null };
  const read = { file: file.data, machine: machine.data, crib: crib.data, offered: offered.data };
  /** The run that goes on with other tools; null for one that starts. */
  const retool = search.get("retool");
  /** Whether what led here knew the place and the wrench: work that follows on other work. */
  const known = search.has("place") && search.has("wrench");
  return { error, preparing: { ...chosen, ...read, procedure, retool, known, choice: choiceOf(row, read.offered) } };
}

export type Preparing = NonNullable<ReturnType<typeof usePreparing>["preparing"]>;
