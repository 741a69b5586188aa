import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { nameOf } from "./acts";
import { NoteForm } from "./NoteForm";
import type { Recorder } from "./useRecorder";

type Props = {
  now: Schemas["Now"];
  recorder: Recorder;
  label: string | null;
  onType: () => void;
  onLine: () => void;
  why: string;
};
type Open = "undo" | "loosened" | "paused" | "note" | "why" | null;

const UNDO = ["pressed by mistake", "another nut", "the wrench slipped", "typed wrong"];
const PAUSES = ["the phone", "a part is missing", "called away", "end of shift"];
const LOOSE = [
  { say: "to look at it", kind: "loosened" },
  { say: "clicked without turning", kind: "loosened" },
  { say: "pulled too far", kind: "loosened" },
  { say: "replaced by a new one", kind: "replaced" },
] as const;

/** What happens less often: a figure to type, a press to take back, a nut turned back. */
export function OtherActs({ now, recorder, label, onType, onLine, why }: Props) {
  const [open, setOpen] = useState<Open>(null);
  const last = now.last_undoable;
  const { prompt } = now;
  const name = nameOf(now, label);
  const done = (act: () => void) => {
    act();
    setOpen(null);
  };
  const toggle = (panel: Open) => setOpen(open === panel ? null : panel);
  const key = (panel: Open) => `btn ${open === panel ? "btn-neutral" : "btn-ghost"}`;
  return (
    <div className="flex flex-col gap-2">
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
            <b>{name}</b> was turned back; it comes up through every stage again. Why?
          </p>
          {LOOSE.map(({ say, kind }) => (
            <button
              key={say}
              type="button"
              className="btn"
              onClick={() => done(() => recorder.record({ kind, fastener: label, text: say }))}
            >
              {say}
            </button>
          ))}
        </div>
      )}
      {open === "paused" && (
        <div className="flex flex-wrap items-center gap-2">
          <p className="text-lg">Stop here for now, because of:</p>
          {PAUSES.map((reason) => (
            <button
              key={reason}
              type="button"
              className="btn"
              onClick={() => done(() => recorder.record({ kind: "paused", text: reason }))}
            >
              {reason}
            </button>
          ))}
        </div>
      )}
      {open === "why" && <p className="text-lg">{why}</p>}
      {open === "note" && (
        <NoteForm
          onNote={(text, files) => done(() => recorder.record({ kind: "noted", text, files, fastener: label }))}
        />
      )}
      <div className="flex flex-wrap gap-2">
        {(prompt.ask === "click" || prompt.ask === "angle") && (
          <button type="button" className="btn btn-ghost" onClick={onType}>
            {prompt.ask === "angle" ? "Type degrees" : "Type a reading"}
          </button>
        )}
        <button type="button" className="btn btn-ghost" onClick={onLine}>
          Wrench on the line
        </button>
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
            {name} loosened
          </button>
        )}
        <button type="button" className={key("note")} aria-expanded={open === "note"} onClick={() => toggle("note")}>
          Note, photo
        </button>
        {why && label && (
          <button type="button" className={key("why")} aria-expanded={open === "why"} onClick={() => toggle("why")}>
            Why this order?
          </button>
        )}
        <button
          type="button"
          className={key("paused")}
          aria-expanded={open === "paused"}
          onClick={() => toggle("paused")}
        >
          Pause
        </button>
        {label && (
          <span className="text-base-content/80 self-center text-sm">pulled another? tap it on the drawing</span>
        )}
      </div>
    </div>
  );
}
