import { Check } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { atDevice } from "../../parts/ids";
import { useMe } from "../../parts/useMe";
import { usePullKey } from "../../parts/usePullKey";
import { toolsOf } from "./inHand";
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

/** The pull that an act on a nut answers: the prompt's own, or the same pass's for a nut chosen on the map. */
export function pullFor(prompt: Schemas["Prompt"], label: string | null): string | null {
  if (label === prompt.fastener || !prompt.pull) return prompt.pull ?? null;
  return `${prompt.pass_id}:${label}`;
}

/** The one key; two of them in a check. The space bar and a foot switch press the first. */
export function PullKeys({ sheet, now, recorder, label, blocked, rung, onEnd }: Props) {
  const me = useMe();
  const { prompt } = now;
  const [pressed, setPressed] = useState(0);
  const [reason, setReason] = useState("");
  const waiting = useRef<{ asked: string; pull: string | null; at: string; moved: boolean } | null>(null);
  const press = (happened: Happened, at = atDevice()) => {
    if (recorder.question || recorder.away) return;
    if (recorder.busy) {
      waiting.current = { asked: prompt.ask, pull: prompt.pull ?? null, at, moved: happened.moved === true };
      return;
    }
    setPressed((count) => count + 1);
    recorder.record({
      at_device: at,
      claimed_seq: now.seq + 1,
      told: now.verdicts.filter((v) => !v.answered).map((v) => v.code),
      ...happened,
    });
  };
  const at = { pull: pullFor(prompt, label), fastener: label };
  const nut = { ...at, how: "click" as const, tools: toolsOf(sheet, prompt) };
  const acts: Record<Schemas["Prompt"]["ask"], () => void> = {
    click: () => press({ kind: "pulled", ...nut, rung: rung ?? null }),
    angle: () => press({ kind: "pulled", ...nut, how: "gauge" }),
    turn: () => press({ kind: "turned", ...at }),
    loosen: () => press({ kind: "loosened", ...at }),
    align: () => press({ kind: "turned", ...at }),
    rotate: () => press({ kind: "turned", ...at }),
    turned: () => press({ kind: "checked", ...nut, moved: false }),
    confirm: () => press({ kind: "confirmed", ...at }),
    choose: () => {},
    measure: () => {},
    stop: () => {},
    finish: onEnd,
  };
  // A press that came before the last one was acknowledged belongs to the next pull, and to its own moment.
  useEffect(() => {
    const early = waiting.current;
    if (!early || recorder.busy) return;
    waiting.current = null;
    if (early.asked !== prompt.ask || recorder.question) return;
    if (prompt.ask === "click") press({ kind: "pulled", ...nut, rung: rung ?? null }, early.at);
    if (prompt.ask === "turned") press({ kind: "checked", ...nut, moved: early.moved }, early.at);
    // A task is confirmed by a press that was meant for it, never by one that came before it was shown.
    if (prompt.ask === "confirm" && early.pull === prompt.pull) press({ kind: "confirmed", ...at }, early.at);
  });
  usePullKey(blocked ? null : acts[prompt.ask]);
  const look = "btn min-h-28 flex-1 text-3xl landscape:min-h-32";
  const quiet = recorder.busy ? "opacity-60" : "";
  if (prompt.ask === "stop") {
    return (
      <form
        className="bg-warning text-warning-content rounded-box flex flex-wrap items-center gap-3 p-4"
        onSubmit={(event) => {
          event.preventDefault();
          press({ kind: "deviated", pull: prompt.pull ?? null, text: reason });
        }}
      >
        <p className="flex-1 text-xl font-bold">{prompt.say}</p>
        {me.person.role === "lead" && (
          <>
            <input
              className="input bg-base-100 text-base-content flex-1"
              aria-label="decision and reason"
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
            <button type="submit" className="btn" disabled={!reason.trim()}>
              Go on
            </button>
          </>
        )}
        <button type="button" className="btn" onClick={onEnd}>
          End the run
        </button>
      </form>
    );
  }
  if (prompt.ask === "measure") return null;
  if (prompt.ask === "choose") {
    return (
      <fieldset className="flex flex-wrap gap-2" aria-label="choose">
        {prompt.options.map((option) => (
          <button
            key={option.key}
            type="button"
            className={`${look} ${option.key === prompt.proposed ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
            onClick={() => press({ kind: "confirmed", ...at, option: option.key })}
          >
            {option.say || option.key}
            {option.key === prompt.proposed && <span className="text-base">by the reading, {prompt.value}</span>}
          </button>
        ))}
      </fieldset>
    );
  }
  const other = others(prompt, label);
  return (
    <div className="flex gap-2">
      {other && (
        <button
          type="button"
          className={`${look} border-success bg-base-100 border-4 ${quiet}`}
          onClick={() =>
            press(
              prompt.ask === "turned" || prompt.ask === "angle"
                ? { ...nut, ...other.happened }
                : { ...at, ...other.happened },
            )
          }
        >
          {other.say}
        </button>
      )}
      <button
        key={pressed}
        type="button"
        className={`${look} btn-primary flex-col gap-0 ${quiet} ${pressed ? "pressed" : ""}`}
        onClick={acts[prompt.ask]}
      >
        {says(prompt, label)}
        <span className="text-base">tap, space bar or foot switch</span>
      </button>
    </div>
  );
}

/** What the main key says. */
function says(prompt: Schemas["Prompt"], label: string | null): string {
  const nut = label ? `nut ${label} ` : "";
  return {
    click: `${nut}clicked`,
    angle: `${nut}at the mark, by the gauge`,
    turn: `${nut}turned ${prompt.amount}`,
    loosen: `${nut}turned back`,
    align: `${nut}stands in a slot`,
    rotate: `turned ${prompt.amount}`,
    turned: `${nut}did not turn`,
    confirm: label ? `nut ${label} confirmed` : "Confirmed",
    choose: "",
    measure: "",
    stop: "",
    finish: "Finish",
  }[prompt.ask];
}

/** The other thing that can have happened, where there are two. */
function others(prompt: Schemas["Prompt"], label: string | null): { say: string; happened: Happened } | null {
  if (prompt.ask === "turned") return { say: `nut ${label} turned`, happened: { kind: "checked", moved: true } };
  if (prompt.ask === "angle") return { say: `nut ${label} by eye`, happened: { kind: "pulled", how: "eye" } };
  if (prompt.ask === "turn") return { say: `nut ${label} seated`, happened: { kind: "turned", option: "seated" } };
  if (prompt.ask === "align") return { say: "no slot within the limit", happened: { kind: "turned", option: "high" } };
  return null;
}

/** The tasks before the first pull: one after the other, each an entry. */
export function Checklist({ now, recorder }: { now: Schemas["Now"]; recorder: Recorder }) {
  const tasks = now.passes.slice(
    0,
    now.passes.findIndex((one) => one.total > 1 || !one.task),
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
