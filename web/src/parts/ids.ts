import { v7 } from "uuid";

/** When an id was made, by the page's own clock, which nobody sets. */
const made = new Map<string, number>();

/** An id made where the thing happened. */
export function newId(): string {
  const id = v7();
  made.set(id, performance.now());
  return id;
}

export const atDevice = (): string => new Date().toISOString();

/**
 * How long something has been kept on this tablet. The tablet's clock may have been set back since; the page's own may have
 * stood still while the tablet slept.
 */
export function waitedMs(id: string, at: string): string {
  const byThePage = performance.now() - (made.get(id) ?? performance.now());
  return Math.max(0, byThePage, Date.now() - Date.parse(at)).toFixed(0);
}
