import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Keypad } from "../../parts/Keypad";
import { inHand, toolsOf } from "./inHand";
import { pullFor } from "./PullKeys";
import type { Recorder } from "./useRecorder";

type Props = {
  sheet: Schemas["RunSheet"];
  now: Schemas["Now"];
  recorder: Recorder;
  label: string | null;
  onClose: () => void;
};

/** What the wrench showed, in the unit of its own scale. */
export function ReadingPad({ sheet, now, recorder, label, onClose }: Props) {
  const [figure, setFigure] = useState("");
  const unit = inHand(sheet, now.prompt)?.wrench.unit ?? "N·m";
  return (
    <form
      className="flex h-full flex-col items-center justify-center gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        recorder.record({
          kind: "pulled",
          pull: pullFor(now.prompt, label),
          fastener: label,
          how: "typed",
          tools: toolsOf(sheet, now.prompt),
          reading: { figure: Number(figure), unit, where: "wrench" },
          claimed_seq: now.seq + 1,
        });
        onClose();
      }}
    >
      <Keypad label={`reading, ${unit}`} decimal value={figure} onChange={setFigure} />
      <div className="flex w-full max-w-sm gap-2">
        <button type="submit" className="btn btn-primary flex-1 text-xl" disabled={!(Number(figure) > 0)}>
          Nut {label} read {figure || "…"} {unit}
        </button>
        <button type="button" className="btn" onClick={onClose}>
          Back
        </button>
      </div>
    </form>
  );
}
