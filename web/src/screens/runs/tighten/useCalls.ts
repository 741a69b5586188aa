import { useEffect } from "react";
import type { Schemas } from "../../../api/client";
import { soundOn } from "../../../parts/feedback";

/** Says what comes, if sound is on and the browser has a voice: `four, stage 2 of 3`. */
export function useCalls(prompt: Schemas["Prompt"]) {
  const words = prompt.fastener ? `${prompt.fastener}, ${prompt.stage}` : prompt.say;
  useEffect(() => {
    if (!soundOn() || !("speechSynthesis" in window) || !words) return;
    speechSynthesis.cancel();
    speechSynthesis.speak(new SpeechSynthesisUtterance(words));
  }, [words]);
}
