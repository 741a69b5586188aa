import type { Problem, Schemas } from "../../../api/client";

export type Report = Schemas["Report"];
export type Happened = Omit<Partial<Report>, "id"> & { kind: Report["kind"] };

/** Records what happened in a run, once; by the server, or by the tablet itself. */
export type Recorder = {
  /** Done once it is kept; null if it was not taken. */
  record: (happened: Happened) => Promise<void> | null;
  /** Waiting for a clear answer; nothing new can be recorded. */
  busy: boolean;
  /** It could not be delivered; it is kept here, and the key sends it again. */
  away: boolean;
  /** Try to deliver what is kept at once. */
  retry: () => unknown;
  /** What is asked before it is recorded. */
  question: Problem | null;
  affirm: (change?: Partial<Report>) => unknown;
  /** The figure that is being asked about. */
  typed: Report["reading"] | null;
  /** It did not happen: forget it, nothing was recorded. */
  drop: () => unknown;
  refusal: unknown;
  /** Whether the tablet judges it itself. */
  onTablet: boolean;
};
