import type { Schemas } from "../api/client";

/** A figure and its unit, kept together by a no-break space. */
export const figure = (shown: Schemas["Shown"]): string => `${shown.figure}\u00a0${shown.unit}`;

export const limits = (shown: Schemas["Shown"]): string => (shown.low ? `${shown.low}\u2009–\u2009${shown.high}` : "");

const shop = { timeZone: "UTC" };

/** Every time on the screens is the shop's, wherever the tablet was set up. Said once, at the door. */
export function timesIn(timeZone: string): void {
  shop.timeZone = timeZone;
}

export const moment = (iso: string): string =>
  new Date(iso).toLocaleString("en-GB", {
    day: "2-digit",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    ...shop,
  });

export const day = (iso: string): string =>
  new Date(iso).toLocaleDateString("en-GB", { day: "2-digit", month: "short", year: "numeric", ...shop });

/** What a list says of a place, without what nobody said: a joint of the whole machine has no position. */
export const inOneLine = (...parts: readonly (string | null | undefined)[]): string =>
  parts.filter(Boolean).join(" · ");

/** A run's place in words a list can use. */
export const standingWords = (standing: string | null | undefined): string =>
  standing === "do not move" ? "do not move" : (standing ?? "not finished");
