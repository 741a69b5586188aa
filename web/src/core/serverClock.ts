/** Two clocks that have gone apart by more than this were not read at the same pace: one was set, or stood still. */
const APART_MS = 3_000;

type Heard = { server: number; device: number; page: number };
let last: Heard | null = null;

/** The server has said what time it is. What its answers differ by on their way is left out, so that the time runs evenly. */
export function heardTime(now: string): void {
  const [device, page, told] = [Date.now(), performance.now(), Date.parse(now)];
  const expected = last && device + (last.server - last.device);
  const server = expected !== null && agree(told, expected) ? expected : told;
  last = { server, device, page };
}

/** The time by the server's clock; null where it is not known: nothing was heard, or this tablet slept since, or was set. */
export function serverNow(): number | null {
  if (last === null) return null;
  const passed = Date.now() - last.device;
  return agree(passed, performance.now() - last.page) ? last.server + passed : null;
}

type Since = { at_device: string; done_at: string };

/** How long ago something was done [s]: by the server's clock where it is known of both moments, else by this tablet's. */
export function secondsSince({ at_device, done_at }: Since): number {
  const now = done_at === at_device ? null : serverNow();
  return (now === null ? Date.now() - Date.parse(at_device) : now - Date.parse(done_at)) / 1_000;
}

/** When something was pressed: by the tablet's clock, by the server's [ms], by the page's own [ms]; null where that is not known. */
export type Pressed = { at: string; byServer: number | null; byPage: number | null };

/** Whether only the server can say how long something has been kept: the clocks here disagree, and its time is not known now. */
export function isUnclear({ at, byServer, byPage }: Pressed): boolean {
  const isTheSame = byPage !== null && agree(Date.now() - Date.parse(at), performance.now() - byPage);
  return !isTheSame && byServer !== null && serverNow() === null;
}

const agree = (firstMs: number, otherMs: number): boolean => Math.abs(firstMs - otherMs) < APART_MS;

/**
 * How long something has been kept here [ms]. Where the tablet's clock and the page's own say the same, that long; where they do
 * not, one of them stood still or was set, and the server's clock decides; where that is not known, the longer of the two.
 */
export function keptFor({ at, byServer, byPage }: Pressed): number {
  const byDevice = Date.now() - Date.parse(at);
  const byItsPage = byPage === null ? null : performance.now() - byPage;
  const now = serverNow();
  if (byItsPage !== null && agree(byItsPage, byDevice)) return Math.max(0, byItsPage, byDevice);
  if (now !== null && byServer !== null) return Math.max(0, now - byServer);
  return Math.max(0, byItsPage ?? 0, byDevice);
}
