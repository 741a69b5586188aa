import { useSyncExternalStore } from "react";
import { courier } from "./courier";
import { reach } from "./reach";

/** How many entries are not sent yet, and whether the server is away. */
export function useUnsent(): { unsent: number; away: boolean } {
  const [unsent = "0", away] = useSyncExternalStore(courier.watch, courier.told).split(" ");
  return { unsent: Number(unsent), away: away !== undefined };
}

/** Whether the server is away. */
export function useAway(): boolean {
  return useSyncExternalStore(reach.watch, () => reach.away);
}
