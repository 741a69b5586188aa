import { useEffect } from "react";
import type { Schemas } from "../../../api/client";
import { soundOn } from "../../../parts/feedback";

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

/** Says what comes, if sound is on and the browser has a voice: `four, stage 2 of 3`. */
export function useCalls(prompt: Schemas["Prompt"]) {
  const words = prompt.fastener ? `${prompt.fastener}, ${prompt.stage}` : prompt.say;
  useEffect(() => {
    if (!soundOn() || !("speechSynthesis" in window) || !words) return;
    speechSynthesis.cancel();
    speechSynthesis.speak(new SpeechSynthesisUtterance(words));
  }, [words]);
}
