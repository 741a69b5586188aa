import { useState } from "react";
import { address } from "../../../api/addresses";
import { useCommand } from "../../../api/command";
import { touched } from "../../../api/queries";
import type { Said } from "../../../core/tabletCore";
import { Choice } from "../../../parts/Choice";
import { Trouble } from "../../../parts/Trouble";
import { usePanelWrench } from "./usePanelWrench";

const MANNERS = (["slow", "steady", "fast", "jerky"] as const).map((value) => ({ value, say: value }));
const MISHAPS = [
  ["slip", "It slips"],
  ["twice", "Click twice"],
  ["battery", "Battery low"],
  ["out of range", "Out of range, and back"],
] as const;

/** A wrench that tells what it does: the code to pair it by, and a simulated one to hold in the hand. */
export function LinePanel({ run, trouble, show }: { run: string; trouble: string; show: (said: Said) => void }) {
  const pair = useCommand({
    body: ({ id }, _: string) => ({ id }),
    to: (run_id: string) => address("/api/runs/{run_id}/wrenches", { path: { run_id } }),
    changes: touched.run(run),
  });
  return (
    <section aria-label="wrench on the line" className="border-primary flex flex-col gap-3 border-l-8 p-2 pl-4">
      <div className="flex flex-wrap items-center gap-4">
        {pair.data ? (
          <p className="text-lg">
            Tell the wrench: <b className="text-3xl tracking-widest">{pair.data.code}</b>
          </p>
        ) : (
          <button type="button" className="btn" onClick={() => pair.press(run)}>
            Pair a wrench
          </button>
        )}
        {trouble && <p className="text-warning-content bg-warning px-3 py-1 font-bold">The wrench says: {trouble}</p>}
        <Trouble error={pair.error} />
      </div>
      <Simulated run={run} show={show} />
    </section>
  );
}

function Simulated({ run, show }: { run: string; show: (said: Said) => void }) {
  const [manner, setManner] = useState<(typeof MANNERS)[number]["value"]>("steady");
  const [held, setHeld] = useState(false);
  const wrench = usePanelWrench(run, show);
  const act = (type: string) => wrench({ type, manner });
  const hold = () => {
    setHeld(true);
    act("hold");
  };
  const letGo = () => {
    if (held) act("let go");
    setHeld(false);
  };
  return (
    <div className="flex flex-wrap items-end gap-3">
      <button
        type="button"
        className={`btn min-h-20 touch-none px-8 text-xl select-none ${held ? "btn-neutral" : "btn-primary"}`}
        onPointerDown={hold}
        onPointerUp={letGo}
        onPointerLeave={letGo}
      >
        {held ? "Let go to stop" : "Hold to pull"}
        <span className="text-sm">simulated wrench</span>
      </button>
      <p className="max-w-56 text-sm">Practice: a run in which it pulls cannot end good.</p>
      <Choice label="How" options={MANNERS} value={manner} onChange={setManner} />
      {MISHAPS.map(([type, say]) => (
        <button
          key={type}
          type="button"
          className="btn"
          onClick={() => {
            setHeld(false);
            act(type);
          }}
        >
          {say}
        </button>
      ))}
    </div>
  );
}
