import type { ReactNode } from "react";
import { type FieldValues, FormProvider, type UseFormReturn } from "react-hook-form";
import { Frame } from "./Frame";
import { KeyBelow } from "./KeyBelow";
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
          className="mx-auto flex max-w-xl flex-col gap-4 px-6 pt-6"
          onSubmit={(event) => {
            event.preventDefault();
            form.clearErrors();
            onSubmit();
          }}
        >
          {children}
          <KeyBelow>
            <Trouble error={placed ? null : error} />
            <button type="submit" className="btn btn-primary w-full text-xl" disabled={pending}>
              {action}
            </button>
          </KeyBelow>
        </form>
      </FormProvider>
    </Frame>
  );
}
