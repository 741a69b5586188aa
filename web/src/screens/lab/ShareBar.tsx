import type { Schemas } from "../../api/client";

const TONES: Readonly<Record<string, string>> = {
  main: "bg-primary text-primary-content",
  plain: "bg-secondary text-secondary-content",
  faint: "bg-base-300 text-base-content",
};

/** A whole, part by part: where a pull's torque goes. */
export function ShareBar({ parts }: { parts: readonly Schemas["SharePart"][] }) {
  return (
    <figure aria-label="where the torque goes" className="flex flex-col gap-1">
      <div className="flex h-16 w-full overflow-hidden rounded" aria-hidden="true">
        {parts.map((part) => (
          <div
            key={part.name}
            className={`grid place-items-center text-2xl font-bold ${TONES[part.tone] ?? ""}`}
            style={{ width: `${part.share * 100}%` }}
          >
            {Math.round(part.share * 100)}%
          </div>
        ))}
      </div>
      <ul className="flex flex-wrap gap-x-5">
        {parts.map((part) => (
          <li key={part.name} className="flex items-center gap-2">
            <span className={`size-4 rounded-sm ${TONES[part.tone] ?? ""}`} aria-hidden="true" />
            {part.name}: <b>{part.words}</b>
          </li>
        ))}
      </ul>
    </figure>
  );
}
