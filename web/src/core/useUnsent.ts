import { useSyncExternalStore } from "react";
import { courier } from "./courier";

/** How many entries are not sent yet, and whether the server is away. */
export function useUnsent(): { unsent: number; away: boolean } {
  const [unsent = "0", away] = useSyncExternalStore(courier.watch, courier.told).split(" ");
  return { unsent: Number(unsent), away: away !== undefined };
}
