import type { Schemas } from "../../../api/client";

export type Put = Schemas["Put"];
export type Offered = Schemas["Offered"];

/** A wrench with what is on its end, for all or for some of the fasteners and steps; not picked yet while it is null. */
export type Row = {
  key: string;
  wrench: string | null;
  unit: Schemas["Wrench"]["unit"] | null;
  end: Put[];
  tilt: number;
  of: string[] | null;
  steps: string[] | null;
  override: string;
};

let made = 0;

export function newRow(of: string[] | null = null, steps: string[] | null = null): Row {
  made += 1;
  return { key: `row${made}`, wrench: null, unit: null, end: [], tilt: 0, of, steps, override: "" };
}

/** What the screen says a row is for. */
export function rowWords(row: Row, wrenches: readonly Schemas["Choice"][]): string {
  const named = wrenches.find((wrench) => wrench.wrench.id === row.wrench)?.wrench.name ?? "no wrench yet";
  const meant = [row.of?.join(", "), row.steps?.join(", ")].filter(Boolean).join(" · ");
  return `${meant || "all the rest"}: ${named}`;
}

/** The rows as they are sent, the narrower ones first: the first that is meant for a fastener and step is used. */
export function taken(rows: readonly Row[]): Schemas["Taken"][] {
  return rows
    .filter((row) => row.wrench !== null)
    .map((row) => ({
      wrench: row.wrench ?? "",
      unit: row.unit,
      on_its_end: row.end,
      tilt_deg: row.tilt,
      of: row.of,
      steps: row.steps,
      override: row.override,
    }))
    .sort(
      (each, other) =>
        Number(each.of === null && each.steps === null) - Number(other.of === null && other.steps === null),
    );
}

/** The rows of one share: stages in which it takes the same fasteners stand together. */
export function rowsOf(share: Schemas["Share"], fasteners: number): Row[] {
  const together = new Map<string, Row>();
  for (const { step, labels } of share.needs) {
    const key = labels.join(" ");
    const row = together.get(key) ?? newRow(labels.length < fasteners ? labels : null, []);
    together.set(key, { ...row, wrench: share.wrench, unit: share.unit, steps: [...(row.steps ?? []), step] });
  }
  return [...together.values()];
}

/** The choice that a row stands for, among those offered for it. */
export function choiceOf(row: Row, offered: Offered): Schemas["Choice"] | undefined {
  return offered.choices.find(
    (choice) => choice.wrench.id === row.wrench && (row.unit === null || choice.wrench.unit === row.unit),
  );
}
