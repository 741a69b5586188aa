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

/** What the wrench showed, in the unit of its own scale. */
export function ReadingPad({ sheet, now, recorder, label, onClose }: Props) {
  const [figure, setFigure] = useState("");
  const { prompt } = now;
  const name = nameOf(now, label);
  const unit: Unit = prompt.ask === "angle" ? "°" : (inHand(sheet, prompt)?.wrench.unit ?? "N·m");
  const angle = prompt.ask === "angle";
  return (
    <form
      className="flex h-full flex-col items-center justify-center gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        const kept = recorder.record({
          kind: "pulled",
          pull: pullFor(prompt, label),
          fastener: label,
          how: angle ? "gauge" : "typed",
          counts: angle ? "swing" : null,
          tools: toolsOf(sheet, prompt),
          reading: { figure: Number(figure), unit, where: angle ? "gauge" : "wrench" },
          claimed_seq: now.seq + 1,
        });
        if (!kept) return; // what was typed stays, to be pressed once more
        setFigure("");
        onClose();
      }}
    >
      <Keypad label={`reading, ${unit}`} decimal ready value={figure} onChange={setFigure} />
      <div className="flex w-full max-w-sm gap-2">
        <button
          type="submit"
          className="btn btn-primary flex-1 text-xl"
          disabled={figure === "" || !(Number(figure) >= 0) || Number(figure) === 0}
        >
          {name ? `${name} read` : "Read"} {figure || "…"}
          {unit === "°" ? "" : " "}
          {unit}
        </button>
        <button type="button" className="btn" onClick={onClose}>
          Back
        </button>
      </div>
    </form>
  );
}
