import type { Schemas } from "../api/client";

export type Basis = Schemas["Meter"]["basis"];

/** What an odd reading of a meter can be. */
export const BASES: readonly { value: Basis; say: string }[] = [
  { value: "reading", say: "as read" },
  { value: "correction", say: "the last one was wrong" },
  { value: "new_meter", say: "new meter" },
];
