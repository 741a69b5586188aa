import { type ReactNode, useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Reasons } from "../../../parts/Reasons";
import { nameOf } from "./acts";
import { NoteForm } from "./NoteForm";
import type { Recorder } from "./recorder";

type Props = {
  now: Schemas["Now"];
  recorder: Recorder;
  label: string | null;
  onType: () => void;
  onLine: () => void;
  fromPaper: ReactNode;
  why: string;
};
type Panel = { name: string; say: string; shown: boolean; disabled?: boolean; panel: ReactNode };

const UNDO = ["pressed by mistake", "another nut", "the wrench slipped", "typed wrong"];
const PAUSES = ["the phone", "a part is missing", "called away", "end of shift"];
const LOOSE = ["to look at it", "clicked without turning", "pulled too far", "replaced by a new one"];
const REPLACED = LOOSE.at(-1);

/** What happens less often: a figure to type, a press to take back, a nut turned back. */
export function OtherActs({ now, recorder, label, onType, onLine, fromPaper, why }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  /** On a phone the drawing comes first: what happens less often stands behind a key. */
  const [more, setMore] = useState(false);
  const last = now.last_undoable;
  const { ask } = now.prompt;
  const name = nameOf(now, label);
  const going = useRef(false);
  /** The panel closes once it is kept; until then a second press is the same one. What was not taken stays as it was typed. */
  const record = async (happened: Parameters<Recorder["record"]>[0]) => {
    if (going.current) return;
    const kept = recorder.record(happened);
    if (!kept) return;
    going.current = true;
    try {
      await kept;
    } finally {
      going.current = false;
      setOpen(null);
    }
  };
  const undo = (text: string) => last && record({ kind: "undone", undoes: last.id, text, claimed_seq: now.seq + 1 });
  const loosened = (text: string) =>
    record({ kind: text === REPLACED ? "replaced" : "loosened", fastener: label, text });
  const panels: Panel[] = [
    {
      name: "undo",
      say: "Take back",
      shown: true,
      disabled: !last,
      panel: last && (
        <Reasons reasons={UNDO} onGive={undo}>
          Take back <b>{last.words}</b>, because:
        </Reasons>
      ),
    },
    {
      name: "loosened",
      say: `${name} loosened`,
      shown: label !== null && now.pulled_something,
      panel: (
        <Reasons reasons={LOOSE} onGive={loosened}>
          <b>{name}</b> was turned back; it comes up through every stage again. Why?
        </Reasons>
      ),
    },
    {
      name: "note",
      say: "Note, photo",
      shown: true,
      panel: <NoteForm onNote={(text, files) => record({ kind: "noted", text, files, fastener: label })} />,
    },
    {
      name: "why",
      say: "Why this order?",
      shown: why !== "" && label !== null,
      panel: <p className="text-lg">{why}</p>,
    },
    { name: "paper", say: "On paper", shown: true, panel: fromPaper },
    {
      name: "paused",
      say: "Pause",
      shown: true,
      panel: (
        <Reasons reasons={PAUSES} onGive={(text) => record({ kind: "paused", text })}>
          Stop here for now, because of:
        </Reasons>
      ),
    },
  ];
  return (
    <div className="flex flex-col gap-2">
      {panels.find((each) => each.name === open && each.shown)?.panel}
      <button
        type="button"
        className="btn btn-ghost sm:hidden"
        aria-expanded={more}
        onClick={() => setMore((shown) => !shown)}
      >
        {more ? "Less" : "More: take back, note, pause …"}
      </button>
      <div className={`flex flex-wrap gap-2 ${more ? "" : "max-sm:hidden"}`}>
        {(ask === "click" || ask === "angle") && (
          <button type="button" className="btn btn-ghost" onClick={onType}>
            {ask === "angle" ? "Type degrees" : "Type a reading"}
          </button>
        )}
        <button type="button" className="btn btn-ghost" onClick={onLine}>
          {ask === "measure" ? "Gauge" : "Wrench"} on the line
        </button>
        {panels
          .filter((each) => each.shown)
          .map((each) => (
            <button
              key={each.name}
              type="button"
              className={`btn ${open === each.name ? "btn-neutral" : "btn-ghost"}`}
              aria-expanded={open === each.name}
              disabled={each.disabled ?? false}
              onClick={() => setOpen(open === each.name ? null : each.name)}
            >
              {each.say}
            </button>
          ))}
        {label && (
          <span className="text-base-content/80 self-center text-sm">pulled another? tap it on the drawing</span>
        )}
      </div>
    </div>
  );
}
