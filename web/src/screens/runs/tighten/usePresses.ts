import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { atDevice } from "../../../parts/ids";
import { type Act, happened } from "./acts";
import type { Happened, Recorder } from "./recorder";

type Run = {
  sheet: Schemas["RunSheet"];
  now: Schemas["Now"];
  recorder: Recorder;
  label: string | null;
  /** A figure of the ladder that was chosen instead of the one that comes by itself. */
  rung: string | null;
};

/**
 * Presses of the keys of a run: each is recorded once, for the fastener that stands on the key. One that comes before the last
 * was answered would be for a fastener that has been pulled: it is not taken, and that is said.
 */
export function usePresses({ sheet, now, recorder, label, rung }: Run) {
  const { prompt } = now;
  const [pressed, setPressed] = useState(0);
  const record = (what: Happened) => {
    if (!recorder.question && !recorder.busy) setPressed((count) => count + 1);
    recorder.record({
      at_device: atDevice(),
      claimed_seq: now.seq + 1,
      told: now.verdicts.filter((verdict) => !verdict.answered).map((verdict) => verdict.code),
      ...what,
    });
  };
  const press = (act: Act) => {
    if (recorder.away) recorder.retry();
    else record({ ...happened(act, sheet, prompt, label), ...(act.kind === "pulled" && rung ? { rung } : {}) });
  };
  return { press, record, pressed };
}
