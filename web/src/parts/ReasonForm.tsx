import { useState } from "react";

type Props = { label: string; action: string; onGive: (reason: string) => void };

/** A line for a reason and the key that needs it. */
export function ReasonForm({ label, action, onGive }: Props) {
  const [reason, setReason] = useState("");
  return (
    <form
      className="flex flex-wrap gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onGive(reason);
      }}
    >
      <input
        className="input bg-base-100 flex-1"
        aria-label={label}
        placeholder={label}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <button type="submit" className="btn" disabled={!reason.trim()}>
        {action}
      </button>
    </form>
  );
}
