import { Check } from "lucide-react";
import type { Schemas } from "../../../api/client";
import type { Recorder } from "./recorder";

/** The tasks before the first pull: one after the other, each an entry. */
export function Checklist({ now, recorder }: { now: Schemas["Now"]; recorder: Recorder }) {
  const tasks = now.passes.slice(
    0,
    now.passes.findIndex((pass) => pass.total > 1 || !pass.task),
  );
  return (
    <section aria-label="before the first pull" className="flex min-h-0 flex-col gap-2 overflow-y-auto">
      <h2 className="text-2xl font-bold">Before the first pull</h2>
      <ul className="flex flex-col gap-2">
        {tasks.map((task) => (
          <li key={task.id}>
            <button
              type="button"
              disabled={task.status === "done" || recorder.busy}
              className={`rounded-field flex min-h-14 w-full items-center gap-3 border-2 px-4 py-2 text-left text-lg ${task.status === "current" ? "border-primary font-bold" : "border-base-content/40"}`}
              onClick={() => recorder.record({ kind: "confirmed", pull: task.id })}
            >
              <span className="border-primary text-primary grid size-8 shrink-0 place-items-center border-2">
                {task.status === "done" && <Check aria-label="confirmed" />}
              </span>
              {task.words}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
