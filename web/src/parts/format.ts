import type { Schemas } from "../api/client";

/** A figure and its unit, kept together by a no-break space. */
export const figure = (shown: Schemas["Shown"]): string => `${shown.figure}\u00a0${shown.unit}`;

export const limits = (shown: Schemas["Shown"]): string => (shown.low ? `${shown.low}\u2009–\u2009${shown.high}` : "");

const shop = { timeZone: "UTC" };
const written = { dates: "en-GB" };

/** Every time on the screens is the shop's and written in its way, wherever the tablet was set up. Said once, at the door. */
export function timesIn(timeZone: string, dates: string): void {
  shop.timeZone = timeZone;
  written.dates = dates;
}

/** Every date is written in one form; the year only where it is not this one. */
export const DAY = { day: "numeric", month: "short" } as const;
const DAY_AND_YEAR = { ...DAY, year: "numeric" } as const;

const yearOf = (at: Date): string => at.toLocaleDateString("en-GB", { year: "numeric", ...shop });
const isOfThisYear = (iso: string): boolean => yearOf(new Date(iso)) === yearOf(new Date());

export const moment = (iso: string): string =>
  new Date(iso).toLocaleString(written.dates, {
    ...(isOfThisYear(iso) ? DAY : DAY_AND_YEAR),
    hour: "2-digit",
    minute: "2-digit",
    ...shop,
  });

export const day = (iso: string): string =>
  new Date(iso).toLocaleDateString(written.dates, { ...(isOfThisYear(iso) ? DAY : DAY_AND_YEAR), ...shop });

/** Hour and minute, with the second where it matters. */
export const clock = (iso: string, seconds = false): string =>
  new Date(iso).toLocaleTimeString(written.dates, {
    hour: "2-digit",
    minute: "2-digit",
    ...(seconds ? { second: "2-digit" } : {}),
    ...shop,
  });

/** A day of the calendar, which has no clock. */
export const calendarDay = (day: string, parts: Intl.DateTimeFormatOptions): string =>
  new Date(`${day}T12:00:00Z`).toLocaleDateString(written.dates, { ...parts, timeZone: "UTC" });

/** What a list says of a place, without what nobody said: a joint of the whole machine has no position. */
export const inOneLine = (...parts: readonly (string | null | undefined)[]): string =>
  parts.filter(Boolean).join(" · ");

const PROCEDURES: Record<string, string> = { retorque: "re-torque", remove: "take apart" };

/** What a procedure is called. */
export const procedureWords = (name: string): string => PROCEDURES[name] ?? name;

/** A run's place in words a list can use. */
export const standingWords = (standing: string | null | undefined): string =>
  standing === "do not move" ? "do not move" : (standing ?? "not finished");
