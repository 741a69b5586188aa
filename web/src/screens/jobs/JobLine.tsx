import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { inOneLine, moment } from "../../parts/format";
import { type JointState, StateIcon } from "../../parts/StateMark";

type Run = Schemas["JobRun"];

const stateOf = ({ standing }: Run): JointState =>
  standing === null ? "open" : standing === "good" || standing === "released" ? "done" : "do not move";

/** A run of the job: how far it is, who is at it, why it was left, what must be done again. */
export function JobLine({ run, people, next }: { run: Run; people: ReadonlyMap<string, string>; next: boolean }) {
  const left = run.left_by && run.why_left !== "" && (
    <span className="block">
      Left by {people.get(run.left_by) ?? "somebody"}
      {run.left_at && `, ${moment(run.left_at)}`}: {run.why_left}
    </span>
  );
  return (
    <li className={`border-base-300 border-b ${next ? "bg-base-200" : ""}`}>
      <Link
        className="flex min-h-14 items-center gap-3 px-2 py-1"
        to={run.standing ? `/runs/${run.run}/card` : `/runs/${run.run}`}
      >
        <StateIcon state={stateOf(run)} label={run.standing === null && run.of > 1 ? String(run.done) : ""} />
        <span className="min-w-0 flex-1">
          <b>{inOneLine(run.position, run.position ? null : run.title)}</b>
          <span className="block text-sm">
            {run.standing ??
              (run.finished
                ? "nothing left to do"
                : inOneLine(run.waits || run.stage, run.of > 1 && !run.waits ? `${run.done} of ${run.of}` : null))}
          </span>
          {left}
          {run.again.map((words) => (
            <span key={words} className="text-error block text-sm font-bold">
              {words}
            </span>
          ))}
        </span>
        {run.by && <span className="text-primary font-bold">{people.get(run.by) ?? "somebody"} is here</span>}
      </Link>
    </li>
  );
}
