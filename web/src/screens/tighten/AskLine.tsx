import type { Schemas } from "../../api/client";
import { Trouble } from "../../parts/Trouble";
import type { Recorder } from "./useRecorder";

const UNITS = ["N·m", "lbf·ft", "lbf·in", "kgf·m"] as const;

type Props = { recorder: Recorder; unit: Schemas["Reading"]["unit"] };

/** What the server asks before it records, answered in place; and whether the last one is still on its way. */
export function AskLine({ recorder, unit }: Props) {
  const { question } = recorder;
  if (recorder.away) {
    return (
      <p role="status" className="bg-warning text-warning-content rounded-box p-3 text-lg">
        The server does not answer. Your last entry is kept on this tablet and goes out by itself.
      </p>
    );
  }
  if (!question) return recorder.refusal ? <Trouble error={recorder.refusal} /> : null;
  return (
    <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-wrap items-center gap-3 p-3">
      <p className="flex-1 text-lg">
        <b>{question.fault}</b> {question.remedy}
      </p>
      {question.ask === "unit" ? (
        UNITS.map((one) => (
          <button
            key={one}
            type="button"
            className="btn"
            onClick={() =>
              recorder.affirm(one === unit ? {} : { reading: { figure: recorder.typed, unit: one, where: "wrench" } })
            }
          >
            {one === unit ? `${one}, as typed` : one}
          </button>
        ))
      ) : (
        <button type="button" className="btn" onClick={() => recorder.affirm()}>
          Yes, a pull of its own
        </button>
      )}
      <button type="button" className="btn" onClick={recorder.drop}>
        {question.ask === "unit" ? "Type it again" : "No, ignore it"}
      </button>
    </div>
  );
}
