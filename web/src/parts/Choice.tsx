import type { ReactNode } from "react";

type Props<T extends string> = {
  label: string;
  options: readonly { value: T; say: ReactNode; refused?: string }[];
  value: T | null;
  onChange: (value: T) => void;
};

/** A few large keys of which one is chosen. A refused one says why and cannot be taken. */
export function Choice<T extends string>({ label, options, value, onChange }: Props<T>) {
  return (
    <fieldset>
      <legend className="mb-2 text-lg font-bold">{label}</legend>
      <div className="flex flex-wrap gap-2">
        {options.map((option) => (
          <button
            key={option.value}
            type="button"
            className={`btn h-auto py-2 ${value === option.value ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
            aria-pressed={value === option.value}
            disabled={option.refused !== undefined}
            onClick={() => onChange(option.value)}
          >
            {option.say}
          </button>
        ))}
      </div>
    </fieldset>
  );
}
