import { useState } from "react";
import type { Schemas } from "../../../api/client";
import type { Readings } from "./MeterFields";
import { newRow, type Row } from "./tooling";

type Position = Schemas["Position"];

function fromKey(key: string | null): Position {
  const [axle = "", side = "", place = ""] = key?.split("/") ?? [];
  return { axle, side: side === "left" || side === "right" ? side : null, place };
}

/** What is chosen before a run: position, wrenches by row, what holds the machine; and what the crib offers for it. */
export function useChosen(axles: readonly string[], place: string | null) {
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
