import { useId } from "react";
import type { Schemas } from "../../../api/client";

type Props = {
  label: string;
  hint?: string | undefined;
  value: string;
  faults: readonly Schemas["CellFault"][];
  options?: readonly string[] | undefined;
  wide?: boolean;
  onChange: (value: string) => void;
};

/** One cell of the table, as a line to type in or a choice; what is wrong with it stands below it. */
export function CellField({ label, hint, value, faults, options, wide = false, onChange }: Props) {
  const id = useId();
  const wrong = faults.length > 0;
  const look = `w-full bg-base-100 ${wrong ? "border-error border-2" : ""}`;
  return (
    <div className={`flex flex-col gap-1 ${wide ? "xl:col-span-2" : ""}`}>
      <label className="font-bold" htmlFor={id}>
        {label}
      </label>
      {options ? (
        <select
          id={id}
          className={`select min-h-14 ${look}`}
          value={value}
          aria-invalid={wrong}
          onChange={(event) => onChange(event.target.value)}
        >
          {!options.includes(value) && <option value={value}>{value || "choose"}</option>}
          {options.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
      ) : (
        <input
          id={id}
          className={`input ${look}`}
          autoComplete="off"
          value={value}
          aria-invalid={wrong}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
      {faults.map((fault) => (
        <span key={fault.fault} role="alert" className="border-error border-l-4 pl-2">
          <b>{fault.fault}</b> {fault.remedy}
        </span>
      ))}
      {hint && !wrong && <span className="text-base-content/80 text-sm">{hint}</span>}
    </div>
  );
}
