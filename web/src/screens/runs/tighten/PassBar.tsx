import type { Schemas } from "../../../api/client";

/** The passes as a strip: a bar for a trip round the nuts, a diamond for a task. */
export function PassBar({ passes }: { passes: readonly Schemas["PassLine"][] }) {
  return (
    <ol aria-label="passes" className="flex flex-wrap items-center gap-x-2 px-3 pt-2">
      {passes.map((pass) => {
        const words = `${pass.words}: ${pass.done} of ${pass.total}`;
        if (pass.total <= 1) {
          return (
            <li key={pass.id} title={words} className="py-1">
              <span
                className={`border-primary block size-3 rotate-45 border-2 ${pass.status === "done" ? "bg-primary" : ""}`}
              />
              <span className="sr-only">{words}</span>
            </li>
          );
        }
        return (
          <li
            key={pass.id}
            className={`min-w-0 flex-1 ${pass.status === "maybe" ? "opacity-80" : ""}`}
            aria-current={pass.status === "current"}
          >
            <span
              className={`block truncate text-sm ${pass.status === "maybe" ? "portrait:invisible" : ""} ${pass.status === "current" ? "font-bold" : ""}`}
            >
              {pass.words}
            </span>
            <span className={`block h-2 border ${pass.status === "maybe" ? "border-dashed" : ""} border-primary`}>
              <span className="bg-primary block h-full" style={{ width: `${(100 * pass.done) / pass.total}%` }} />
            </span>
            <span className="sr-only">{`${pass.done} of ${pass.total}`}</span>
          </li>
        );
      })}
    </ol>
  );
}
