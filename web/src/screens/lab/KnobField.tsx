import { Minus, Plus } from "lucide-react";
import { useId } from "react";
import type { Schemas } from "../../api/client";

type Knob = Schemas["Knob"];
type Props = { knob: Knob; onTurn: (name: string, value: string, resets?: readonly string[]) => void };

const FEW = 3;

/** A knob of the lab: a slider with keys for gloves, or a choice. */
export function KnobField({ knob, onTurn }: Props) {
  const id = useId();
  if (knob.options.length === 0) return <Slider knob={knob} onTurn={onTurn} id={id} />;
  if (knob.options.length <= FEW) {
    return (
      <fieldset className="flex flex-col gap-1">
        <legend>{knob.label}</legend>
        <div className="flex flex-wrap gap-1">
          {knob.options.map((option) => (
            <button
              key={option}
              type="button"
              className={`btn min-h-14 flex-1 ${option === knob.value ? "btn-primary" : ""}`}
              aria-pressed={option === knob.value}
              onClick={() => onTurn(knob.name, option, knob.resets)}
            >
              {option}
            </button>
          ))}
        </div>
      </fieldset>
    );
  }
  return (
    <label htmlFor={id} className="flex flex-col gap-1">
      {knob.label}
      <select
        id={id}
        className="select h-14 w-full"
        value={knob.value}
        onChange={(event) => onTurn(knob.name, event.target.value, knob.resets)}
      >
        {knob.options.map((option) => (
          <option key={option}>{option}</option>
        ))}
      </select>
    </label>
  );
}

function Slider({ knob, onTurn, id }: Props & { id: string }) {
  const value = Number(knob.value);
  const to = (figure: number) => {
    const bounded = Math.min(knob.high, Math.max(knob.low, figure));
    onTurn(knob.name, String(Number(bounded.toFixed(6))), knob.resets);
  };
  const key = "btn btn-square size-14 min-h-14";
  return (
    <div className="flex flex-col">
      <label htmlFor={id} className="flex justify-between">
        <span>{knob.label}</span>
        <b className="text-lg whitespace-nowrap">
          {knob.value} {knob.unit}
        </b>
      </label>
      <div className="flex items-center gap-2">
        <button type="button" className={key} aria-label={`${knob.label}, less`} onClick={() => to(value - knob.step)}>
          <Minus aria-hidden="true" />
        </button>
        <input
          id={id}
          type="range"
          className="range range-primary min-w-0 flex-1"
          min={knob.low}
          max={knob.high}
          step={knob.step}
          value={value}
          aria-valuetext={`${knob.value} ${knob.unit}`}
          onChange={(event) => to(Number(event.target.value))}
        />
        <button type="button" className={key} aria-label={`${knob.label}, more`} onClick={() => to(value + knob.step)}>
          <Plus aria-hidden="true" />
        </button>
      </div>
    </div>
  );
}
