import { type InputHTMLAttributes, type Ref, useId } from "react";

type Props = InputHTMLAttributes<HTMLInputElement> & {
  label: string;
  hint?: string;
  /** What is wrong with it; read out when it comes, and tied to the input. */
  wrong?: string;
  ref?: Ref<HTMLInputElement>;
};

/** A labelled line to type in. */
export function Field({ label, hint, wrong, ...input }: Props) {
  const id = useId();
  const told = [hint ? `${id}-hint` : "", wrong ? `${id}-wrong` : ""].filter(Boolean).join(" ");
  return (
    <div className="flex flex-col gap-1">
      <label className="font-bold" htmlFor={id}>
        {label}
      </label>
      <input
        id={id}
        className={`input w-full bg-base-100 ${wrong ? "border-error border-2" : ""}`}
        autoComplete="off"
        aria-invalid={wrong !== undefined}
        aria-describedby={told || undefined}
        {...input}
      />
      {wrong && (
        <span id={`${id}-wrong`} role="alert" className="border-error border-l-4 pl-2 font-bold">
          {wrong}
        </span>
      )}
      {hint && (
        <span id={`${id}-hint`} className="text-base-content/80 text-sm">
          {hint}
        </span>
      )}
    </div>
  );
}
