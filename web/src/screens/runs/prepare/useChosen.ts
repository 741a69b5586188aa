import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { lately } from "./lately";
import type { Readings } from "./MeterFields";
import { newRow, type Row } from "./tooling";

const NOWHERE: Schemas["Position"] = { axle: "", side: null, place: "" };

/** What is chosen before a run: places, wrenches by row, what holds the machine; and what the crib offers for it. */
export function useChosen(places: readonly Schemas["PlaceLine"][], place: string | null, machine: string) {
  const before = lately.at(machine);
  const [picked, setPlaces] = useState<readonly string[]>(place ? [place] : []);
  const [rows, setRows] = useState<Row[]>(() => [newRow()]);
  const [active, setActive] = useState(rows[0]?.key ?? "");
  const [supports, setSupports] = useState<string[]>([...(before?.supports ?? [])]);
  const [load, setLoad] = useState(before?.load ?? "");
  const [readings, setReadings] = useState<Readings>(before?.readings ?? {});
  const [proof, setProof] = useState<string | null>(null);
  const chosen = places.length === 1 ? places : places.filter((each) => picked.includes(each.key));
  const positions = chosen.map((each) => each.position);
  const row = rows.find((each) => each.key === active) ?? (rows[0] as Row);
  const take = (changed: Row[], now: string) => {
    setRows(changed);
    setActive(now);
  };
  return {
    /** The first of the places, for what the crib offers. */
    position: positions[0] ?? NOWHERE,
    ...{
      positions,
      places: chosen.map((each) => each.key),
      setPlaces,
      rows,
      row,
      setActive,
      supports,
      setSupports,
      load,
      setLoad,
    },
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
