import type { ReactNode } from "react";
import { Frame } from "./Frame";
import { Trouble } from "./Trouble";

type Props = {
  title: string;
  action: string;
  pending: boolean;
  error: unknown;
  onSubmit: () => void;
  children: ReactNode;
};

/** A short form: its lines, what was refused, one key. */
export function FormFrame({ title, action, pending, error, onSubmit, children }: Props) {
  return (
    <Frame title={title}>
      <form
        className="mx-auto flex max-w-xl flex-col gap-4 p-6"
        onSubmit={(event) => {
          event.preventDefault();
          onSubmit();
        }}
      >
        {children}
        <Trouble error={error} />
        <button type="submit" className="btn btn-primary text-xl" disabled={pending}>
          {action}
        </button>
      </form>
    </Frame>
  );
}
