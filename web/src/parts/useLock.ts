import { useEffect } from "react";
import { useSwitch } from "./useSwitch";

const LOCKS_AFTER_MS = 10 * 60_000;
const LOOKS_EVERY_MS = 5_000;
const tablet = { at: Date.now(), inPass: false };

/** Somebody works here: a touch, a key, a wrench on the line. */
export function active(): void {
  tablet.at = Date.now();
}

/** Whether a pass is under way: then the tablet does not lock. */
export function inPass(now: boolean): void {
  tablet.inPass = now;
}

/** Left alone, the tablet goes back to the door; what was typed and not sent yet stays on it. */
export function useLock(): void {
  const leave = useSwitch();
  useEffect(active, []);
  useEffect(() => {
    const look = setInterval(() => {
      if (!tablet.inPass && Date.now() - tablet.at > LOCKS_AFTER_MS) leave();
    }, LOOKS_EVERY_MS);
    for (const event of ["pointerdown", "keydown"]) window.addEventListener(event, active);
    return () => {
      clearInterval(look);
      for (const event of ["pointerdown", "keydown"]) window.removeEventListener(event, active);
    };
  }, [leave]);
}
