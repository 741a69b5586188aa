import { Check } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { atDevice } from "../../../parts/ids";
import { usePullKey } from "../../../parts/usePullKey";
import { type Act, happened, nameOf, says } from "./acts";
import { StopForm } from "./StopForm";
import type { Happened, Recorder } from "./useRecorder";

type Props = {
  sheet: Schemas["RunSheet"];
  now: Schemas["Now"];
  recorder: Recorder;
  label: string | null;
  blocked: boolean;
  /** A figure of the ladder that was chosen instead of the one that comes by itself. */
  rung: string | null;
  onEnd: () => void;
};

/** What may be pressed before the last press was acknowledged: it belongs to the next fastener of the pass. */
const IN_A_ROW: ReadonlySet<string> = new Set<Schemas["Prompt"]["ask"]>(["click", "turned"]);

type Early = { asked: string; pull: string | null; say: string; at: string; seq: number };

/** A key for each thing that can have happened; the space bar and a foot switch press the main one. */
export function PullKeys({ sheet, now, recorder, label, blocked, rung, onEnd }: Props) {
  const { prompt } = now;
  const [pressed, setPressed] = useState(0);
  const early = useRef<Early | null>(null);
  const record = (what: Happened, at = atDevice()) => {
    if (recorder.question || recorder.away || recorder.busy) return;
    setPressed((count) => count + 1);
    recorder.record({
      at_device: at,
      claimed_seq: now.seq + 1,
      told: now.verdicts.filter((v) => !v.answered).map((v) => v.code),
      ...what,
    });
  };
  const press = (act: Act, at = atDevice()) => {
    if (recorder.busy) {
      early.current ??= { asked: prompt.ask, pull: prompt.pull ?? null, say: act.say, at, seq: now.seq };
      return;
    }
    record({ ...happened(act, sheet, prompt, label), ...(act.kind === "pulled" && rung ? { rung } : {}) }, at);
  };
  useEffect(() => {
    const last = early.current;
    if (recorder.question || recorder.refusal) early.current = null;
    if (!last || recorder.busy || now.seq <= last.seq) return; // not before the screen shows what comes next
    early.current = null;
    const act = prompt.acts.find((each) => each.say === last.say);
    // A task is confirmed by a press that was meant for it, never by one that came before it was shown.
    const meant = IN_A_ROW.has(prompt.ask) || last.pull === prompt.pull;
    if (act && meant && last.asked === prompt.ask) press(act, last.at);
  });
  const [main, ...others] = prompt.acts;
  const choosing = prompt.ask === "choose";
  const pull = prompt.ask === "finish" ? onEnd : main && !choosing ? () => press(main) : null;
  usePullKey(blocked ? null : pull);
  const look = "btn min-h-28 flex-1 text-3xl landscape:min-h-32";
  const quiet = recorder.busy ? "opacity-60" : "";
  const name = nameOf(now, label);
  if (prompt.ask === "stop") {
    return (
      <StopForm
        say={prompt.say}
        onDecide={(text) => record({ kind: "deviated", pull: prompt.pull ?? null, text })}
        onEnd={onEnd}
      />
    );
  }
  if (prompt.ask === "finish") {
    return (
      <button type="button" className={`${look} btn-primary flex-col gap-0`} onClick={onEnd}>
        Finish
        <Foot />
      </button>
    );
  }
  if (!main) return null;
  if (choosing) {
    return (
      <fieldset className="flex flex-wrap gap-2" aria-label="choose">
        {prompt.acts.map((act) => (
          <button
            key={act.option}
            type="button"
            className={`${look} ${act.option === prompt.proposed ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
            onClick={() => press(act)}
          >
            {act.say}
            {act.option === prompt.proposed && <span className="text-base">by the reading, {prompt.value}</span>}
          </button>
        ))}
      </fieldset>
    );
  }
  return (
    <div className="flex gap-2">
      {others.map((act) => (
        <button
          key={act.say}
          type="button"
          className={`${look} border-success bg-base-100 border-4 ${quiet}`}
          onClick={() => press(act)}
        >
          {says(act, name)}
        </button>
      ))}
      <button
        key={pressed}
        type="button"
        className={`${look} btn-primary flex-col gap-0 ${quiet} ${pressed ? "pressed" : ""}`}
        onClick={() => press(main)}
      >
        {says(main, name)}
        <Foot />
      </button>
    </div>
  );
}

const Foot = () => <span className="text-base">tap, space bar or foot switch</span>;

/** The tasks before the first pull: one after the other, each an entry. */
export function Checklist({ now, recorder }: { now: Schemas["Now"]; recorder: Recorder }) {
  const tasks = now.passes.slice(
    0,
    now.passes.findIndex((pass) => pass.total > 1 || !pass.task),
  );
  return (
    <section aria-label="before the first pull" className="flex min-h-0 flex-col gap-2 overflow-y-auto">
      <h2 className="text-2xl font-bold">Before the first pull</h2>
      <ul className="flex flex-col gap-2">
        {tasks.map((task) => (
          <li key={task.id}>
            <button
              type="button"
              disabled={task.status === "done" || recorder.busy}
              className={`rounded-field flex min-h-14 w-full items-center gap-3 border-2 px-4 py-2 text-left text-lg ${task.status === "current" ? "border-primary font-bold" : "border-base-content/40"}`}
              onClick={() => recorder.record({ kind: "confirmed", pull: task.id })}
            >
              <span className="border-primary text-primary grid size-8 shrink-0 place-items-center border-2">
                {task.status === "done" && <Check aria-label="confirmed" />}
              </span>
              {task.words}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
