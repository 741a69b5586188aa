import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { Keypad } from "../../../parts/Keypad";
import { nameOf, pullFor } from "./acts";
import { inHand, toolsOf } from "./inHand";
import type { Recorder } from "./recorder";

type Props = {
  sheet: Schemas["RunSheet"];
  now: Schemas["Now"];
  recorder: Recorder;
  label: string | null;
  onClose: () => void;
};

type Unit = Schemas["Reading"]["unit"];

/** What the wrench or the gauge showed, in the unit of its own scale. */
export function ReadingPad({ sheet, now, recorder, label, onClose }: Props) {
  const [figure, setFigure] = useState("");
  const { prompt } = now;
  const name = nameOf(now, label);
  const units = unitsOf(prompt, inHand(sheet, prompt)?.wrench.unit ?? "N·m");
  const [chosen, setUnit] = useState<Unit | null>(null);
  const unit = chosen ?? units[0] ?? "N·m";
  const measuring = prompt.ask === "measure";
  const angle = prompt.ask === "angle";
  return (
    <form
      className="flex h-full flex-col items-center justify-center gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        recorder.record({
          kind: measuring ? "measured" : "pulled",
          pull: pullFor(prompt, label),
          fastener: label,
          how: angle ? "gauge" : "typed",
          counts: angle ? "swing" : null,
          tools: measuring ? null : toolsOf(sheet, prompt),
          reading: { figure: Number(figure), unit, where: measuring || angle ? "gauge" : "wrench" },
          claimed_seq: now.seq + 1,
        });
        setFigure("");
        onClose();
      }}
    >
      {units.length > 1 && (
        <div className="flex gap-2">
          {units.map((each) => (
            <button
              key={each}
              type="button"
              aria-pressed={each === unit}
              className={`btn ${each === unit ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
              onClick={() => setUnit(each)}
            >
              {each}
            </button>
          ))}
        </div>
      )}
      <Keypad label={`reading, ${unit}`} decimal ready value={figure} onChange={setFigure} />
      <div className="flex w-full max-w-sm gap-2">
        <button
          type="submit"
          className="btn btn-primary flex-1 text-xl"
          disabled={figure === "" || !(Number(figure) >= 0) || (!measuring && Number(figure) === 0)}
        >
          {name ? `${name} read` : "Read"} {figure || "…"}
          {unit === "°" ? "" : " "}
          {unit}
        </button>
        {!measuring && (
          <button type="button" className="btn" onClick={onClose}>
            Back
          </button>
        )}
      </div>
    </form>
  );
}

/** The units that a reading can be typed in, the likeliest first. */
function unitsOf(prompt: Schemas["Prompt"], wrench: Unit): readonly Unit[] {
  if (prompt.ask === "measure") return prompt.units as readonly Unit[];
  return [prompt.ask === "angle" ? "°" : wrench];
}
