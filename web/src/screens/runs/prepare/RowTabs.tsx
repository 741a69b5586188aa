import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { newRow, type Offered, type Row, rowWords } from "./tooling";

type Props = {
  rows: readonly Row[];
  active: string;
  offered: Offered;
  layout: Schemas["Layout"];
  onActive: (key: string) => void;
  onRows: (rows: Row[], active: string) => void;
};

/** Several wrenches in one run: which is for what, and one more for some of the fasteners or stages. */
export function RowTabs({ rows, active, offered, layout, onActive, onRows }: Props) {
  const [asking, setAsking] = useState(false);
  const [of, setOf] = useState<string[]>([]);
  const [steps, setSteps] = useState<string[]>([]);
  const stages = [...new Map(offered.asked.map((need) => [need.step, need.words])).entries()];
  const names = [
    ...Object.keys(layout.kinds),
    ...Object.keys(layout.groups),
    ...layout.fasteners.map((fastener) => fastener.label),
  ];
  const toggle = (list: string[], set: (list: string[]) => void, name: string) =>
    set(list.includes(name) ? list.filter((other) => other !== name) : [...list, name]);
  const key = (on: boolean) => `btn ${on ? "btn-primary" : "bg-base-100 border-base-content/40"}`;
  return (
    <section aria-label="several wrenches" className="flex flex-col gap-2">
      {rows.length > 1 && (
        <div className="flex flex-wrap gap-2">
          {rows.map((row) => (
            <button
              key={row.key}
              type="button"
              aria-pressed={row.key === active}
              className={key(row.key === active)}
              onClick={() => onActive(row.key)}
            >
              {rowWords(row, offered.choices)}
            </button>
          ))}
          <button
            type="button"
            className="btn btn-ghost"
            onClick={() => {
              const only = newRow();
              onRows([only], only.key);
            }}
          >
            One wrench for all
          </button>
        </div>
      )}
      {asking ? (
        <div className="border-primary flex flex-col gap-3 border-l-8 pl-4">
          <p className="font-bold">For which fasteners?</p>
          <div className="flex flex-wrap gap-2">
            {names.map((name) => (
              <button
                key={name}
                type="button"
                aria-pressed={of.includes(name)}
                className={key(of.includes(name))}
                onClick={() => toggle(of, setOf, name)}
              >
                {name}
              </button>
            ))}
          </div>
          <p className="font-bold">In which stages? None means all.</p>
          <div className="flex flex-wrap gap-2">
            {stages.map(([step, words]) => (
              <button
                key={step}
                type="button"
                aria-pressed={steps.includes(step)}
                className={key(steps.includes(step))}
                onClick={() => toggle(steps, setSteps, step)}
              >
                {words}
              </button>
            ))}
          </div>
          <div className="flex gap-2">
            <button
              type="button"
              className="btn btn-primary"
              disabled={of.length + steps.length === 0}
              onClick={() => {
                const row = newRow(of.length > 0 ? of : null, steps.length > 0 ? steps : null);
                onRows([row, ...rows], row.key);
                setAsking(false);
                setOf([]);
                setSteps([]);
              }}
            >
              Pick its wrench
            </button>
            <button type="button" className="btn btn-ghost" onClick={() => setAsking(false)}>
              Back
            </button>
          </div>
        </div>
      ) : (
        <button type="button" className="btn btn-ghost self-start" onClick={() => setAsking(true)}>
          Another wrench, or another end, for some of them
        </button>
      )}
    </section>
  );
}
