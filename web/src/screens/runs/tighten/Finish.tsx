import { useState } from "react";
import { useNavigate } from "react-router";
import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { touched } from "../../../api/queries";
import { useUnsent } from "../../../core/useUnsent";
import { Trouble } from "../../../parts/Trouble";
import { useMe } from "../../../parts/useMe";

type Outcome = Schemas["Finish"]["outcome"];
type Props = { sheet: Schemas["RunSheet"]; now: Schemas["Now"]; onBack: () => void };

const ABANDON = ["wrong spec", "interrupted", "part missing"];

/** How the run ends. Good only if it is; the rest with a reason. */
export function Finish({ sheet, now, onBack }: Props) {
  const me = useMe();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const params = { path: { run_id: sheet.run } };
  const end = useCommand({
    body: (pressed, given: { outcome: Outcome; text: string }) => ({ ...pressed, ...given, seq: now.seq }),
    to: address("/api/runs/{run_id}/finish", params),
    changes: touched.run(sheet.run),
    done: () => navigate(`/runs/${sheet.run}/card`, { replace: true }),
  });
  const { unsent, away } = useUnsent();
  const go = (outcome: Outcome, why = text) => end.press({ outcome, text: why });
  if (unsent > 0 || away) {
    return (
      <section aria-label="end the run" className="flex flex-wrap items-center gap-3">
        <p className="flex-1 text-lg">
          <b>
            {away && "The server is away. "}Not sent yet: {unsent}.
          </b>{" "}
          A run ends on the server, once everything is there.
        </p>
        <button type="button" className="btn" onClick={onBack}>
          Back
        </button>
      </section>
    );
  }
  return (
    <section aria-label="end the run" className="flex flex-col gap-3">
      {!now.clean && (
        <p className="text-lg">
          <b>Not good:</b> {now.reasons.join("; ") || "not finished"}.
        </p>
      )}
      {!now.clean && (
        <label className="flex flex-wrap items-center gap-2">
          <span>Reason</span>
          <input className="input bg-base-100 flex-1" value={text} onChange={(event) => setText(event.target.value)} />
          {ABANDON.map((reason) => (
            <button key={reason} type="button" className="btn btn-ghost" onClick={() => setText(reason)}>
              {reason}
            </button>
          ))}
        </label>
      )}
      <div className="flex flex-wrap gap-2">
        {now.clean ? (
          <button type="button" className="btn btn-primary min-h-24 flex-1 text-3xl" onClick={() => go("good", "")}>
            Good: end it
          </button>
        ) : (
          <>
            <button type="button" className="btn btn-error min-h-20 flex-1 text-2xl" onClick={() => go("do not move")}>
              Do not move
            </button>
            {me.rights.includes("decide") && (
              <button type="button" className="btn min-h-20 flex-1 text-xl" onClick={() => go("released")}>
                Release it, as lead
              </button>
            )}
            <button type="button" className="btn min-h-20 flex-1 text-xl" onClick={() => go("abandoned")}>
              Abandon
            </button>
          </>
        )}
        <button type="button" className="btn btn-ghost min-h-20" onClick={onBack}>
          Back to the run
        </button>
      </div>
      <Trouble error={end.error} />
    </section>
  );
}
