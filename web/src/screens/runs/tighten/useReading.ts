import { useEffect, useState } from "react";
import type { Schemas } from "../../../api/client";
import type { Happened } from "./recorder";

type Prompt = Schemas["Prompt"];
type Unit = Schemas["Reading"]["unit"];
export type Gauge = Schemas["RankedGauge"];
const OTHER = "another";

/** A reading while it is taken: with which gauge, whether it is taken as it should be, and what is seen so far. */
export function useReading(now: Schemas["Now"]) {
  const { prompt } = now;
  const [picked, pick] = useState<string | null>(null);
  const [confirmed, confirm] = useState(false);
  const [figure, type] = useState("");
  const [needle, turn] = useState<{ turns: number; marks: number } | null>(null);
  const [radius, setRadius] = useState("");
  const [unit, setUnit] = useState<Unit | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a figure is for one reading
  useEffect(() => {
    confirm(false);
    type("");
    turn(null);
  }, [prompt.pull, prompt.readings_done]);
  const gauges = prompt.gauges.filter((each) => each.rank !== "refused");
  const gauge = picked === OTHER ? null : (gauges.find((each) => each.id === picked) ?? gauges[0] ?? null);
  const units = prompt.units as readonly Unit[];
  const shownIn: Unit = gauge?.unit ?? unit ?? units[0] ?? "mm";
  const asksRadius = (gauge?.needs_radius ?? false) || prompt.circle_mm != null;
  return {
    gauge,
    gauges,
    refused: prompt.gauges.filter((each) => each.rank === "refused"),
    pick: (id: string | null) => {
      pick(id ?? OTHER);
      type("");
      turn(null);
    },
    unit: shownIn,
    units: gauge ? [shownIn] : units,
    setUnit,
    /** Whether somebody has said that this reading is taken as its method says. */
    ready: confirmed || !prompt.confirm_method,
    confirm: () => confirm(true),
    figure,
    type: (typed: string) => {
      type(typed);
      turn(null);
    },
    needle,
    turn: (seen: { turns: number; marks: number }) => {
      turn(seen);
      type("");
    },
    radius,
    setRadius,
    asksRadius,
    /** Whether there is something to record. */
    whole:
      (needle !== null || (figure !== "" && Number(figure) >= 0)) &&
      (!(gauge?.needs_radius ?? false) || Number(radius) > 0),
  };
}

export type ReadingNow = ReturnType<typeof useReading>;

/** What is recorded of it. */
export function measured(prompt: Prompt, reading: ReadingNow, pull: string | null, label: string | null): Happened {
  const radius_mm = reading.asksRadius && Number(reading.radius) > 0 ? Number(reading.radius) : null;
  return {
    kind: "measured",
    pull,
    fastener: label,
    how: "typed",
    method: reading.ready ? (prompt.method?.name ?? null) : null,
    tools: reading.gauge ? [reading.gauge.id] : null,
    ...(reading.needle
      ? { needle: { ...reading.needle, radius_mm } }
      : { reading: { figure: Number(reading.figure), unit: reading.unit, where: "gauge", radius_mm } }),
  };
}
