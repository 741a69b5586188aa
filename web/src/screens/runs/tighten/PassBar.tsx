import type { Schemas } from "../../../api/client";

/** The passes as a strip: a bar for a trip round the nuts, a diamond for a task. */
export function PassBar({ passes }: { passes: readonly Schemas["PassLine"][] }) {
  return (
    <ol aria-label="passes" className="flex items-center gap-2 px-3 pt-2">
      {passes.map((one) => {
        const words = `${one.words}: ${one.done} of ${one.total}`;
        if (one.total <= 1) {
          return (
            <li key={one.id} title={words} className="py-1">
              <span
                className={`border-primary block size-3 rotate-45 border-2 ${one.status === "done" ? "bg-primary" : ""}`}
              />
              <span className="sr-only">{words}</span>
            </li>
          );
        }
        return (
          <li
            key={one.id}
            className={`min-w-0 flex-1 ${one.status === "maybe" ? "opacity-80" : ""}`}
            aria-current={one.status === "current"}
          >
            <span
              className={`block truncate text-sm ${one.status === "maybe" ? "portrait:invisible" : ""} ${one.status === "current" ? "font-bold" : ""}`}
            >
              {one.words}
            </span>
            <span className={`block h-2 border ${one.status === "maybe" ? "border-dashed" : ""} border-primary`}>
              <span className="bg-primary block h-full" style={{ width: `${(100 * one.done) / one.total}%` }} />
            </span>
            <span className="sr-only">{`${one.done} of ${one.total}`}</span>
          </li>
        );
      })}
    </ol>
  );
}
