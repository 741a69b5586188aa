import { useEffect, useRef, useState } from "react";
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

/** What may be pressed before the last press was acknowledged: it belongs to the next fastener of the pass. */
const IN_A_ROW: ReadonlySet<string> = new Set<Schemas["Prompt"]["ask"]>(["click", "turned"]);

type Early = { asked: string; pull: string | null; say: string; at: string; seq: number };

/** Presses of the keys of a run: each recorded once; one that comes while the last is on its way waits for it. */
export function usePresses({ sheet, now, recorder, label, rung }: Run) {
  const { prompt } = now;
  const [pressed, setPressed] = useState(0);
  const early = useRef<Early | null>(null);
  /** The view on which the last press was made; what comes after it waits until the screen has moved on from there. */
  const pressedOn = useRef(0);
  const record = (what: Happened, at = atDevice()) => {
    if (recorder.question || recorder.busy) return;
    setPressed((count) => count + 1);
    pressedOn.current = now.seq;
    recorder.record({
      at_device: at,
      claimed_seq: now.seq + 1,
      told: now.verdicts.filter((verdict) => !verdict.answered).map((verdict) => verdict.code),
      ...what,
    });
  };
  const press = (act: Act, at = atDevice()) => {
    if (recorder.away) {
      recorder.retry();
      return;
    }
    if (recorder.busy) {
      early.current ??= { asked: prompt.ask, pull: prompt.pull ?? null, say: act.say, at, seq: pressedOn.current };
      return;
    }
    record({ ...happened(act, sheet, prompt, label), ...(act.kind === "pulled" && rung ? { rung } : {}) }, at);
  };
  useEffect(() => {
    const last = early.current;
    if (recorder.question || recorder.refusal || recorder.away) early.current = null;
    if (!last || recorder.busy || now.seq <= last.seq) return; // not before the screen shows what comes next
    early.current = null;
    const act = prompt.acts.find((each) => each.say === last.say);
    // A task is confirmed by a press that was meant for it, never by one that came before it was shown.
    const meant = IN_A_ROW.has(prompt.ask) || last.pull === prompt.pull;
    if (act && meant && last.asked === prompt.ask) press(act, last.at);
  });
  return { press, record, pressed };
}
