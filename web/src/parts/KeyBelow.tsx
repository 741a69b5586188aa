import type { ReactNode } from "react";

/** The main key of a long form: it stands at the lower edge of the screen, however far one has read. */
export function KeyBelow({ children }: { children: ReactNode }) {
  return (
    <div className="bg-base-100 border-base-300 sticky bottom-0 z-10 flex flex-col gap-2 border-t py-3">{children}</div>
  );
}
