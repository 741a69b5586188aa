import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../parts/Trouble";
import { usePullKey } from "../../parts/usePullKey";
import { inEachRun, useEach } from "./useEach";

type Job = Schemas["JobNow"];
type Props = { machine: string; run: string; job: Job };

/** Whether the key of a run leads on; `waits` while it is not known yet how the other joints stand. The core says it. */
export function leadsOn(job: Job | undefined, run: string, now: Schemas["Now"]): "no" | "yes" | "waits" {
  const mine = job?.runs.find((each) => each.run === run);
  const known = mine !== undefined && (mine.seq === now.seq || job?.runs.length === 1);
  if (!known) return now.prompt.whole_machine ? "waits" : "no";
  return mine.leads_on ? "yes" : "no";
}

/** The one key at the end of a stage: on to the next wheel, or what is done once to the machine. */
export function NextWheel({ machine, run, job }: Props) {
  const navigate = useNavigate();
  const each = useEach(machine);
  const { task } = job;
  const next = job.runs.find((other) => other.run === job.next);
  const isTask = task?.runs.some((other) => other.run === run) ?? false;
  const press = () => {
    if (task && isTask) each.record(inEachRun(task));
    else if (next) navigate(`/runs/${next.run}`);
  };
  const leads = isTask || next !== undefined;
  usePullKey(each.busy || !leads ? null : press);
  if (!leads) {
    const waits = job.runs.find((other) => other.run === run)?.waits;
    return (
      <p role="status" className="bg-base-200 p-4 text-xl">
        This one {waits || "has nothing left to do"}. Every other joint is in somebody's hands.
      </p>
    );
  }
  return (
    <div className="flex flex-col gap-2">
      <button
        type="button"
        className="btn btn-primary min-h-28 flex-col gap-0 text-3xl landscape:min-h-32"
        disabled={each.busy}
        onClick={press}
      >
        {isTask ? task?.say : `Next: ${next?.position || next?.title}`}
        <span className="text-base font-normal">
          {isTask ? `done once, recorded for ${task?.where.join(", ")}` : next?.stage}
          {" · tap, space bar or foot switch"}
        </span>
      </button>
      <Trouble error={each.error} />
    </div>
  );
}
