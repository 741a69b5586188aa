import type { ReactNode } from "react";
import { type FieldValues, FormProvider, type UseFormReturn } from "react-hook-form";
import { Frame } from "./Frame";
import { Trouble } from "./Trouble";

type Props<Values extends FieldValues> = {
  title: string;
  action: string;
  form: UseFormReturn<Values>;
  pending: boolean;
  /** What was refused; shown above the key unless it stands at a line already. */
  error: unknown;
  onSubmit: () => void;
  children: ReactNode;
};

/** A short form: its lines, what was refused, one key. */
export function FormFrame<Values extends FieldValues>({
  title,
  action,
  form,
  pending,
  error,
  onSubmit,
  children,
}: Props<Values>) {
  const placed = Object.keys(form.formState.errors).length > 0;
  return (
    <Frame title={title}>
      <FormProvider {...form}>
        <form
          className="mx-auto flex max-w-xl flex-col gap-4 p-6"
          onSubmit={(event) => {
            event.preventDefault();
            form.clearErrors();
            onSubmit();
          }}
        >
          {children}
          <Trouble error={placed ? null : error} />
          <button type="submit" className="btn btn-primary text-xl" disabled={pending}>
            {action}
          </button>
        </form>
      </FormProvider>
    </Frame>
  );
}
