import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { machineQuery, offerQuery, specQuery, toolsQuery } from "../../../api/queries";
import { Waiting } from "../../../parts/Waiting";
import { Prepare } from "./Prepare";
import { newRow, type Row } from "./tooling";

type Position = Schemas["Position"];

function fromKey(key: string | null): Position {
  const [axle = "", side = "", place = ""] = key?.split("/") ?? [];
  return { axle, side: side === "left" || side === "right" ? side : null, place };
}

/** Before a run: the spec, the machine and the crib are read, and what the crib offers for the row that is looked at. */
export function PrepareScreen() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const machineId = search.get("machine") ?? "";
  const procedure = search.get("procedure") ?? "tighten";
  const place = search.get("place");
  const file = useQuery(specQuery(id));
  const machine = useQuery(machineQuery(machineId));
  const crib = useQuery(toolsQuery);
  const [picked, setPosition] = useState<Position | null>(place ? fromKey(place) : null);
  const [rows, setRows] = useState<Row[]>(() => [newRow()]);
  const [active, setActive] = useState(rows[0]?.key ?? "");
  const [supports, setSupports] = useState<string[]>([]);
  const [load, setLoad] = useState("");
  const axles = file.data?.spec.positions.axles ?? [];
  const position = picked ?? { axle: axles.length === 1 ? (axles[0] ?? "") : "", side: null, place: "" };
  const row = rows.find((each) => each.key === active) ?? rows[0];
  const offered = useQuery(
    offerQuery(id, {
      procedure,
      position,
      machine: machineId,
      of: row?.of ?? null,
      steps: row?.steps ?? null,
      on_its_end: row?.end ?? [],
      tilt_deg: row?.tilt ?? 0,
      supports,
      axle_load_kg: Number(load) || null,
    }),
  );
  if (!file.data || !machine.data || !crib.data || !offered.data || !row)
    return <Waiting error={file.error ?? machine.error ?? crib.error ?? offered.error} />;
  return (
    <Prepare
      file={file.data}
      machine={machine.data}
      crib={crib.data}
      offered={offered.data}
      procedure={procedure}
      retool={search.get("retool")}
      position={position}
      onPosition={setPosition}
      rows={rows}
      row={row}
      onActive={setActive}
      onRows={(changed, now) => {
        setRows(changed);
        setActive(now);
      }}
      supports={supports}
      onSupports={setSupports}
      load={load}
      onLoad={setLoad}
    />
  );
}
