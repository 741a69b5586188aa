import { Check } from "lucide-react";
import type { Schemas } from "../../api/client";

/** What is done one after the other over all joints of the job. */
export function Sequence({ stages }: { stages: readonly Schemas["JobStage"][] }) {
  if (stages.length < 2) return null;
  return (
    <details>
      <summary className="min-h-12 cursor-pointer py-3 font-bold">In which sequence</summary>
      <ol className="flex flex-col gap-1">
        {stages.map((stage) => (
          <li
            key={`${stage.words}${stage.where.join()}`}
            className={`flex gap-2 ${stage.now ? "text-primary font-bold" : ""}`}
          >
            <span className="w-6">{stage.done && <Check aria-label="done" size={20} />}</span>
            <span>
              {stage.words} <span className="text-base-content/80 font-normal">{stage.where.join(" · ")}</span>
            </span>
          </li>
        ))}
      </ol>
    </details>
  );
}
