import type { ReactNode } from "react";

type Props = { reasons: readonly string[]; onGive: (reason: string) => void; children: ReactNode };

/** A sentence, and the usual reasons to tap. */
export function Reasons({ reasons, onGive, children }: Props) {
  return (
    <div className="flex flex-wrap items-center gap-2">
      <p className="text-lg">{children}</p>
      {reasons.map((reason) => (
        <button key={reason} type="button" className="btn" onClick={() => onGive(reason)}>
          {reason}
        </button>
      ))}
    </div>
  );
}
