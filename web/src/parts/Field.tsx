import type { InputHTMLAttributes } from "react";

type Props = InputHTMLAttributes<HTMLInputElement> & { label: string; hint?: string };

/** A labelled line to type in. */
export function Field({ label, hint, ...input }: Props) {
  return (
    <label className="flex flex-col gap-1">
      <span className="font-bold">{label}</span>
      <input className="input w-full bg-base-100" autoComplete="off" {...input} />
      {hint && <span className="text-base-content/80 text-sm">{hint}</span>}
    </label>
  );
}
