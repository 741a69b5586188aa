import { useState } from "react";
import { useMe } from "../../../parts/useMe";

type Props = { say: string; onDecide: (reason: string) => void; onEnd: () => void };

/** A run that came to a stop: a lead decides, with a reason, or it ends. */
export function StopForm({ say, onDecide, onEnd }: Props) {
  const me = useMe();
  const [reason, setReason] = useState("");
  return (
    <form
      className="bg-warning text-warning-content rounded-box flex flex-wrap items-center gap-3 p-4"
      onSubmit={(event) => {
        event.preventDefault();
        onDecide(reason);
      }}
    >
      <p className="flex-1 text-xl font-bold">{say}</p>
      {me.rights.includes("decide") && (
        <>
          <input
            className="input bg-base-100 text-base-content flex-1"
            aria-label="decision and reason"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
          <button type="submit" className="btn" disabled={!reason.trim()}>
            Go on
          </button>
        </>
      )}
      <button type="button" className="btn" onClick={onEnd}>
        End the run
      </button>
    </form>
  );
}
