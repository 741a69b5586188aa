import type { Readings } from "./MeterFields";

/** What was said at a machine last: it is taken for its next joint, and can be changed. */
export type Said = { supports: readonly string[]; load: string; readings: Readings; wrench: string };

/** A machine that was left for longer has been moved: its meter and what holds it are asked anew. */
const KEPT_MS = 30 * 60_000;
const said = new Map<string, Said & { at: number }>();

export const lately = {
  at: (machine: string): Said | undefined => {
    const known = said.get(machine);
    return known && Date.now() - known.at < KEPT_MS ? known : undefined;
  },
  keep: (machine: string, now: Said): void => {
    said.set(machine, { ...now, at: Date.now() });
  },
};
