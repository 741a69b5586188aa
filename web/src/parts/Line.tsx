import type { InputHTMLAttributes } from "react";
import { useFormContext } from "react-hook-form";
import { Field } from "./Field";

type Props = InputHTMLAttributes<HTMLInputElement> & { name: string; label: string; hint?: string };

/** A labelled line of a form; what the server refused about it stands below it. */
export function Line({ name, ...field }: Props) {
  const { register, formState } = useFormContext();
  const wrong = formState.errors[name]?.message;
  return <Field {...field} {...register(name)} {...(wrong ? { wrong: String(wrong) } : {})} />;
}
