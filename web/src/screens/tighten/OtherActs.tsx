import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Keypad } from "../../parts/Keypad";
import { pullFor } from "./PullKeys";
import type { Recorder } from "./useRecorder";

type Props = { sheet: Schemas["RunSheet"]; now: Schemas["Now"]; recorder: Recorder; label: string | null };
type Open = "reading" | "undo" | "loosened" | null;

const UNDO = ["pressed by mistake", "another nut", "the wrench slipped", "typed wrong"];
const LOOSE = ["to look at it", "clicked without turning", "pulled too far", "new nut or stud"];

/** What happens less often: a reading off the scale, a press to take back, a nut turned back. */
export function OtherActs({ sheet, now, recorder, label }: Props) {
  const [open, setOpen] = useState<Open>(null);
  const [figure, setFigure] = useState("");
  const last = now.last_undoable;
  const { prompt } = now;
  const done = (act: () => void) => {
    act();
    setOpen(null);
    setFigure("");
  };
  const toggle = (one: Open) => setOpen(open === one ? null : one);
  const key = (one: Open) => `btn ${open === one ? "btn-neutral" : "btn-ghost"}`;
  return (
    <div className="flex flex-col gap-2">
      {open === "reading" && (
        <form
          className="flex flex-wrap items-end gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            done(() =>
              recorder.record({
                kind: "pulled",
                pull: pullFor(prompt, label),
                fastener: label,
                how: "typed",
                tools: [sheet.wrench.id],
                reading: { figure: Number(figure), unit: sheet.wrench.unit, where: "wrench" },
                claimed_seq: now.seq + 1,
              }),
            );
          }}
        >
          <Keypad label={`reading, ${sheet.wrench.unit}`} decimal value={figure} onChange={setFigure} />
          <button type="submit" className="btn btn-primary text-xl" disabled={!(Number(figure) > 0)}>
            Nut {label} read {figure || "…"} {sheet.wrench.unit}
          </button>
        </form>
      )}
      {open === "undo" && last && (
        <div className="flex flex-wrap items-center gap-2">
          <p className="text-lg">
            Take back <b>{last.words}</b>, because:
          </p>
          {UNDO.map((reason) => (
            <button
              key={reason}
              type="button"
              className="btn"
              onClick={() =>
                done(() => recorder.record({ kind: "undone", undoes: last.id, text: reason, claimed_seq: now.seq + 1 }))
              }
            >
              {reason}
            </button>
          ))}
        </div>
      )}
      {open === "loosened" && (
        <div className="flex flex-wrap items-center gap-2">
          <p className="text-lg">
            Nut <b>{label}</b> was turned back; it comes up through every stage again. Why?
          </p>
          {LOOSE.map((reason) => (
            <button
              key={reason}
              type="button"
              className="btn"
              onClick={() =>
                done(() =>
                  recorder.record({
                    kind: reason.startsWith("new") ? "replaced" : "loosened",
                    fastener: label,
                    text: reason,
                  }),
                )
              }
            >
              {reason}
            </button>
          ))}
        </div>
      )}
      <div className="flex flex-wrap gap-2">
        {prompt.ask === "click" && (
          <button
            type="button"
            className={key("reading")}
            aria-expanded={open === "reading"}
            onClick={() => toggle("reading")}
          >
            Type a reading
          </button>
        )}
        <button
          type="button"
          className={key("undo")}
          aria-expanded={open === "undo"}
          disabled={!last}
          onClick={() => toggle("undo")}
        >
          Take back
        </button>
        {label && now.pulled_something && (
          <button
            type="button"
            className={key("loosened")}
            aria-expanded={open === "loosened"}
            onClick={() => toggle("loosened")}
          >
            Nut {label} loosened
          </button>
        )}
        {label && (
          <span className="text-base-content/80 self-center text-sm">pulled another? tap it on the drawing</span>
        )}
      </div>
    </div>
  );
}
