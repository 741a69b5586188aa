import { useEffect, useRef } from "react";
import type { Schemas } from "../../../api/client";
import { Trouble } from "../../../parts/Trouble";
import type { Recorder } from "./recorder";

type Unit = Schemas["Reading"]["unit"];
type Props = { recorder: Recorder; now: Schemas["Now"] };

/** What is said to a question that no unit answers: it was so, or it did not happen. */
const ANSWERS: Record<string, { yes: string; no: string }> = {
  pace: { yes: "Yes, a pull of its own", no: "No, ignore it" },
  again: { yes: "Yes, it was pulled once more", no: "No, ignore it" },
  unit: { yes: "It is as typed", no: "Type it again" },
  late: { yes: "Go on: only a lead can release it", no: "No: begin again" },
};

/** What the server asks before it records, answered in place; and whether the last one is still on its way. */
export function AskLine({ recorder, now }: Props) {
  const { question, typed } = recorder;
  const asked = useRef<HTMLDivElement>(null);
  const about = question?.fault ?? now.one_or_two[0]?.id;
  // The question, not a key of it: a foot switch must not answer what nobody has read.
  useEffect(() => {
    if (about) asked.current?.focus();
  }, [about]);
  if (recorder.away) {
    return (
      <p role="status" className="bg-warning text-warning-content rounded-box p-3 text-lg">
        The server does not answer. Your last entry is kept on this tablet and goes out by itself; a press sends it now.
      </p>
    );
  }
  if (question) {
    const say = ANSWERS[question.ask ?? ""] ?? { yes: "Yes", no: "No" };
    const units = typed ? (question.choices as Unit[]) : [];
    return (
      <div
        ref={asked}
        tabIndex={-1}
        role="alert"
        className="bg-warning text-warning-content rounded-box flex flex-wrap items-center gap-3 p-3"
      >
        <p className="flex-1 text-lg">
          <b>{question.fault}</b> {question.remedy}
        </p>
        {units.map((unit) => (
          <button
            key={unit}
            type="button"
            className="btn"
            onClick={() => recorder.affirm(typed && unit !== typed.unit ? { reading: { ...typed, unit } } : {})}
          >
            {unit === typed?.unit ? `${unit}, as typed` : unit}
          </button>
        ))}
        {units.length === 0 && (
          <button type="button" className="btn" onClick={() => recorder.affirm()}>
            {say.yes}
          </button>
        )}
        <button type="button" className="btn" onClick={recorder.drop}>
          {say.no}
        </button>
      </div>
    );
  }
  if (recorder.refusal) return <Trouble error={recorder.refusal} />;
  const [entry] = now.one_or_two;
  if (!entry || recorder.busy) return null;
  const clarify = (option: "one" | "two") =>
    recorder.record({ kind: "clarified", about: entry.id, option, claimed_seq: now.seq + 1 });
  return (
    <div
      ref={asked}
      tabIndex={-1}
      role="alert"
      className="bg-warning text-warning-content rounded-box flex flex-wrap items-center gap-3 p-3"
    >
      <p className="flex-1 text-lg">
        <b>Two entries for one pull.</b> {entry.words}. Was it pulled once, or twice?
      </p>
      <button type="button" className="btn" onClick={() => clarify("one")}>
        One pull, recorded twice
      </button>
      <button type="button" className="btn" onClick={() => clarify("two")}>
        Two pulls
      </button>
    </div>
  );
}
