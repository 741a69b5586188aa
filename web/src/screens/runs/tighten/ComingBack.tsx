import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { moment } from "../../../parts/format";
import { type Act, happened } from "./acts";
import type { Recorder } from "./recorder";

const visited = new Set<string>();

/** Whether this page has been on this run since it was loaded; marks it. */
export function wasHere(run: string): boolean {
  const before = visited.has(run);
  visited.add(run);
  return before;
}

type Props = {
  sheet: Schemas["RunSheet"];
  now: Schemas["Now"];
  left: Schemas["Return"];
  people: readonly Schemas["Person"][];
  recorder: Recorder;
  onAnswered: () => void;
};

/** After leaving and coming back: who left it, when and why, and what this step can have had meanwhile. */
export function ComingBack({ sheet, now, left, people, recorder, onAnswered }: Props) {
  const [typing, setTyping] = useState<Act | null>(null);
  const [degrees, setDegrees] = useState("");
  const { prompt } = now;
  const answer = (act: Act, reading: Schemas["Reading"] | null = null) => {
    const what = happened(act, sheet, prompt, prompt.fastener ?? null);
    if (recorder.record({ ...what, reading, claimed_seq: now.seq + 1 })) onAnswered();
  };
  const who = people.find((person) => person.id === left.left_by)?.name ?? "Somebody";
  return (
    <div
      role="alertdialog"
      aria-label="coming back"
      className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4 text-xl"
    >
      <p>
        {who} left it at {moment(left.left_at)}
        {left.why && `: ${left.why}`}.
      </p>
      <p>
        <b>You are back.</b> {now.pulled_something && "Look at the paint marks first. "}
        {left.ask}
      </p>
      <div className="flex flex-wrap gap-3">
        {left.answers.map((act) => (
          <button
            key={act.say}
            type="button"
            className={`btn ${act === typing ? "btn-neutral" : ""}`}
            onClick={() => (act.asks_degrees ? setTyping(act) : answer(act))}
          >
            {act.say}
          </button>
        ))}
      </div>
      {typing && (
        <form
          className="flex flex-wrap items-center gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            answer(typing, { figure: Number(degrees), unit: "°", where: "gauge" });
          }}
        >
          <label className="flex items-center gap-3">
            Degrees in all
            <input
              className="input bg-base-100 text-base-content w-28"
              inputMode="decimal"
              value={degrees}
              onChange={(event) => setDegrees(event.target.value.replace(",", "."))}
            />
          </label>
          <button type="submit" className="btn" disabled={!(Number(degrees) > 0)}>
            The mark stands at {degrees || "…"}°
          </button>
        </form>
      )}
    </div>
  );
}
