import { v7 } from "uuid";
import { type Pressed, serverNow } from "../core/serverClock";

/** The time at which each id was made: by the page's monotonic clock, and by the server's clock if it was known. */
const made = new Map<string, { page: number; server: number | null }>();

/** An id made where the thing happened. */
export function newId(): string {
  const id = v7();
  made.set(id, { page: performance.now(), server: serverNow() });
  return id;
}

export const atDevice = (): string => new Date().toISOString();

/** When an id was made on this page, by the server's clock [ms]; null if that is not known. */
export const madeByServer = (id: string): number | null => made.get(id)?.server ?? null;

/** When something was pressed, by every clock that told it. */
export const pressedAt = (id: string, at: string, byServer: number | null | undefined): Pressed => ({
  at,
  byServer: byServer ?? madeByServer(id),
  byPage: made.get(id)?.page ?? null,
});
