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

type Props = {
  run: string;
  /** Whether a gauge is asked for now, not a wrench. */
  reads: boolean;
  trouble: string;
  show: (said: Said) => void;
};

/** A wrench or a gauge that tells what it does: the code to pair it by, and a simulated one to hold in the hand. */
export function LinePanel({ run, reads, trouble, show }: Props) {
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
            Tell the {reads ? "gauge" : "wrench"}: <b className="text-3xl tracking-widest">{pair.data.code}</b>
          </p>
        ) : (
          <button type="button" className="btn" onClick={() => pair.press(run)}>
            Pair a {reads ? "gauge" : "wrench"}
          </button>
        )}
        {trouble && <p className="text-warning-content bg-warning px-3 py-1 font-bold">The wrench says: {trouble}</p>}
        <Trouble error={pair.error} />
      </div>
      <Simulated run={run} reads={reads} show={show} />
    </section>
  );
}

function Simulated({ run, reads, show }: Omit<Props, "trouble">) {
  const [manner, setManner] = useState<(typeof MANNERS)[number]["value"]>("steady");
  const [held, setHeld] = useState(false);
  const wrench = usePanelWrench(run, show);
  const act = (type: string) => wrench.act({ type, manner });
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
        disabled={!wrench.ready}
        onPointerDown={hold}
        onPointerUp={letGo}
        onPointerLeave={letGo}
      >
        {held ? (reads ? "Let go to read" : "Let go to stop") : reads ? "Hold to see, let go to read" : "Hold to pull"}
        <span className="text-sm">simulated {reads ? "gauge" : "wrench"}</span>
      </button>
      <p className="max-w-56 text-sm">Practice: a run in which it tells anything cannot end good.</p>
      <Choice label="How" options={MANNERS} value={manner} onChange={setManner} />
      {MISHAPS.map(([type, say]) => (
        <button
          key={type}
          type="button"
          className="btn"
          disabled={!wrench.ready}
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
