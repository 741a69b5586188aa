import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { newRow, type Offered, type Row } from "./tooling";

type Props = { offered: Offered; layout: Schemas["Layout"]; onRow: (row: Row) => void; onBack: () => void };

/** For which fasteners and stages another wrench is picked. */
export function AnotherRow({ offered, layout, onRow, onBack }: Props) {
  const [of, setOf] = useState<string[]>([]);
  const [steps, setSteps] = useState<string[]>([]);
  const stages = [...new Map(offered.asked.map((need) => [need.step, need.words])).entries()];
  const labels = layout.fasteners.map((fastener) => fastener.label);
  const names = [...Object.keys(layout.kinds), ...Object.keys(layout.groups), ...labels];
  return (
    <div className="border-primary flex flex-col gap-3 border-l-8 pl-4">
      <Several ask="For which fasteners?" options={names.map((name) => [name, name])} value={of} onChange={setOf} />
      <Several ask="In which stages? None means all." options={stages} value={steps} onChange={setSteps} />
      <div className="flex gap-2">
        <button
          type="button"
          className="btn btn-primary"
          disabled={of.length + steps.length === 0}
          onClick={() => onRow(newRow(of.length > 0 ? of : null, steps.length > 0 ? steps : null))}
        >
          Pick its wrench
        </button>
        <button type="button" className="btn btn-ghost" onClick={onBack}>
          Back
        </button>
      </div>
    </div>
  );
}

type SeveralProps = {
  ask: string;
  options: readonly (readonly [value: string, say: string])[];
  value: readonly string[];
  onChange: (value: string[]) => void;
};

/** Keys of which several can be on. */
function Several({ ask, options, value, onChange }: SeveralProps) {
  const toggle = (name: string) =>
    onChange(value.includes(name) ? value.filter((other) => other !== name) : [...value, name]);
  return (
    <>
      <p className="font-bold">{ask}</p>
      <div className="flex flex-wrap gap-2">
        {options.map(([name, say]) => (
          <button
            key={name}
            type="button"
            aria-pressed={value.includes(name)}
            className={`btn ${value.includes(name) ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
            onClick={() => toggle(name)}
          >
            {say}
          </button>
        ))}
      </div>
    </>
  );
}
