import type { Schemas } from "../api/client";
import { day } from "./format";

const LOOK = {
  current: "bg-success text-success-content",
  draft: "bg-warning text-warning-content",
  superseded: "bg-error text-error-content",
  withdrawn: "bg-error text-error-content",
} as const;

/** How far a spec can be trusted: who says so, how old that is, who looked. */
export function Trust({ file }: { file: Schemas["SpecFile"] }) {
  const { spec, status } = file;
  const say = {
    current: `checked by a second person${file.checked_by && file.checked_at ? `: ${file.checked_by}, ${day(file.checked_at)}` : ""}`,
    draft: `unchecked${file.entered_by ? `, entered by ${file.entered_by}` : ""}`,
    superseded: "superseded",
    withdrawn: "withdrawn",
  }[status];
  return (
    <p className="flex flex-wrap items-center gap-x-4 gap-y-1">
      <span className={`rounded-selector px-3 py-1 font-bold ${LOOK[status]}`}>{say}</span>
      <span>
        {spec.source.grade}
        {spec.source.year && ` of ${spec.source.year}`}
        {file.entered_at && ` · on file since ${day(file.entered_at)}`}
      </span>
    </p>
  );
}
