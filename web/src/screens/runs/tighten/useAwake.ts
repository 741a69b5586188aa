import { useEffect } from "react";

/** Keeps the screen on while a run is open, and again after the tablet was looked away from. */
export function useAwake() {
  useEffect(() => {
    let lock: WakeLockSentinel | null = null;
    const ask = async () => {
      if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
      try {
        lock = await navigator.wakeLock.request("screen");
      } catch {
        lock = null; // a low battery may refuse it: the run goes on all the same
      }
    };
    ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      document.removeEventListener("visibilitychange", ask);
      lock?.release();
    };
  }, []);
}
