import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { machineQuery, offerQuery, specQuery, toolsQuery } from "../../../api/queries";
import type { Readings } from "./MeterFields";
import { choiceOf, newRow, type Row } from "./tooling";

type Position = Schemas["Position"];

function fromKey(key: string | null): Position {
  const [axle = "", side = "", place = ""] = key?.split("/") ?? [];
  return { axle, side: side === "left" || side === "right" ? side : null, place };
}

/** What is chosen before a run: position, wrenches by row, what holds the machine; and what the crib offers for it. */
function useChosen(axles: readonly string[], place: string | null) {
  const [picked, setPosition] = useState<Position | null>(place ? fromKey(place) : null);
  const [rows, setRows] = useState<Row[]>(() => [newRow()]);
  const [active, setActive] = useState(rows[0]?.key ?? "");
  const [supports, setSupports] = useState<string[]>([]);
  const [load, setLoad] = useState("");
  const [readings, setReadings] = useState<Readings>({});
  const [proof, setProof] = useState<string | null>(null);
  const position = picked ?? { axle: axles.length === 1 ? (axles[0] ?? "") : "", side: null, place: "" };
  const row = rows.find((each) => each.key === active) ?? (rows[0] as Row);
  const take = (changed: Row[], now: string) => {
    setRows(changed);
    setActive(now);
  };
  return {
    ...{ position, setPosition, rows, row, setActive, supports, setSupports, load, setLoad },
    ...{ readings, setReadings, proof, setProof },
    setRows: take,
    /** Change the row that is looked at. */
    change: (part: Partial<Row>) =>
      take(
        rows.map((each) => (each.key === row.key ? { ...each, ...part } : each)),
        row.key,
      ),
  };
}

/** Everything of the screen before a run; `error` while something could not be read, null data while it is read. */
export function usePreparing() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const machineId = search.get("machine") ?? "";
  const procedure = search.get("procedure") ?? "tighten";
  const file = useQuery(specQuery(id));
  const machine = useQuery(machineQuery(machineId));
  const crib = useQuery(toolsQuery);
  const chosen = useChosen(file.data?.spec.positions.axles ?? [], search.get("place"));
  const { row, position, supports, load } = chosen;
  const offered = useQuery(
    offerQuery(id, {
      ...{ procedure, position, supports, machine: machineId, of: row.of, steps: row.steps },
      on_its_end: row.end,
      tilt_deg: row.tilt,
      axle_load_kg: Number(load) || null,
    }),
  );
  const error = file.error ?? machine.error ?? crib.error ?? offered.error;
  if (!file.data || !machine.data || !crib.data || !offered.data) return { error, preparing: null };
  const read = { file: file.data, machine: machine.data, crib: crib.data, offered: offered.data };
  /** The run that goes on with other tools; null for one that starts. */
  const retool = search.get("retool");
  return { error, preparing: { ...chosen, ...read, procedure, retool, choice: choiceOf(row, read.offered) } };
}

export type Preparing = NonNullable<ReturnType<typeof usePreparing>["preparing"]>;
