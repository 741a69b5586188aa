import { useQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp, Plus, Trash2 } from "lucide-react";
import { useRef } from "react";
import type { Schemas } from "../../../api/client";
import { columnsQuery } from "../../../api/queries";
import { CellField } from "./CellField";
import type { Cells } from "./useDraft";

const LABELS: Record<string, string> = {
  step: "Name",
  kind: "Kind",
  of: "Which",
  figure: "Figure",
  amount: "Amount",
  what: "What",
  say: "Say",
  meanwhile: "Meanwhile",
  hold: "Hold against it",
  inside: "Inside",
  procedure: "Procedure",
  order: "Order",
  watch: "Watch",
  more: "The rest",
};

type Props = { steps: readonly Cells[]; faults: readonly Schemas["CellFault"][]; onChange: (steps: Cells[]) => void };

/** The steps, one below the other, as they are done. */
export function StepRows({ steps, faults, onChange }: Props) {
  const { data: table } = useQuery(columnsQuery);
  const kinds = table?.step_kinds ?? [];
  const columnsOf = (step: Cells) => kinds.find((kind) => kind.name === step.kind)?.columns ?? ["kind"];
  const keys = useRef(new WeakMap<Cells, number>());
  const next = useRef(0);
  const keyOf = (step: Cells) => {
    const known = keys.current.get(step) ?? next.current++;
    keys.current.set(step, known);
    return known;
  };
  const put = (index: number, step: Cells) => {
    keys.current.set(step, keyOf(steps[index] as Cells));
    onChange(steps.map((each, at) => (at === index ? step : each)));
  };
  const move = (index: number, by: number) => {
    const moved = [...steps];
    const [moving] = moved.splice(index, 1);
    if (moving) moved.splice(index + by, 0, moving);
    onChange(moved);
  };
  const add = () => {
    const procedure = steps.at(-1)?.procedure ?? "tighten";
    onChange([...steps, { procedure, step: `s${steps.length + 1}`, kind: "torque", figure: "" }]);
  };
  return (
    <section aria-label="steps" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">Steps</h2>
      <ol className="flex flex-col gap-3">
        {steps.map((step, index) => (
          <li key={keyOf(step)} className="border-base-300 border-l-8 pl-3" aria-label={`step ${index + 1}`}>
            <div className="grid gap-2 xl:grid-cols-3">
              {columnsOf(step).map((name) => (
                <CellField
                  key={name}
                  label={LABELS[name] ?? name}
                  hint={["figure", "amount"].includes(name) ? table?.columns[name] : undefined}
                  options={name === "kind" ? kinds.map((kind) => kind.name) : undefined}
                  value={step[name] ?? ""}
                  faults={faults.filter((fault) => fault.row === index + 1 && fault.column === name)}
                  onChange={(value) => put(index, { ...step, [name]: value })}
                />
              ))}
            </div>
            <p className="flex gap-1 pt-1">
              <button
                type="button"
                className="btn btn-ghost"
                aria-label={`step ${index + 1} earlier`}
                disabled={index === 0}
                onClick={() => move(index, -1)}
              >
                <ArrowUp aria-hidden="true" />
              </button>
              <button
                type="button"
                className="btn btn-ghost"
                aria-label={`step ${index + 1} later`}
                disabled={index === steps.length - 1}
                onClick={() => move(index, 1)}
              >
                <ArrowDown aria-hidden="true" />
              </button>
              <button
                type="button"
                className="btn btn-ghost"
                aria-label={`leave step ${index + 1} out`}
                disabled={steps.length === 1}
                onClick={() => onChange(steps.filter((_, at) => at !== index))}
              >
                <Trash2 aria-hidden="true" />
              </button>
            </p>
          </li>
        ))}
      </ol>
      <button type="button" className="btn self-start" onClick={add}>
        <Plus aria-hidden="true" /> One more step
      </button>
    </section>
  );
}
