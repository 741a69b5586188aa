import { useState } from "react";

type Props = { say: string; ask: string; disabled?: boolean; onSure: () => void };

/** A key for what cannot be taken back: it asks once more. */
export function Sure({ say, ask, disabled = false, onSure }: Props) {
  const [asked, setAsked] = useState(false);
  if (!asked) {
    return (
      <button type="button" className="btn self-start" onClick={() => setAsked(true)}>
        {say}
      </button>
    );
  }
  return (
    <span role="alertdialog" aria-label={say} className="flex flex-wrap items-center gap-2">
      <b>{ask}</b>
      <button
        type="button"
        className="btn btn-error"
        disabled={disabled}
        onClick={() => {
          setAsked(false);
          onSure();
        }}
      >
        Yes
      </button>
      {/* biome-ignore lint/a11y/noAutofocus: the question was just asked for, and no is the safe answer */}
      <button type="button" autoFocus className="btn" onClick={() => setAsked(false)}>
        No
      </button>
    </span>
  );
}
