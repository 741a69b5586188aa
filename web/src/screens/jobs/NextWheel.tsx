import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../parts/Trouble";
import { usePullKey } from "../../parts/usePullKey";
import { useEach } from "./useEach";

type Job = Schemas["JobNow"];
type Props = { machine: string; run: string; job: Job };

/**
 * Whether the key of a run leads on: another joint of the job comes first, or the machine is brought on for all of them. Never
 * confirmed for one joint alone is what is done to the machine; `waits` while it is not known yet how the others stand.
 */
export function leadsOn(job: Job | undefined, run: string, now: Schemas["Now"]): "no" | "yes" | "waits" {
  const mine = job?.runs.find((each) => each.run === run);
  if (!job || !mine) return now.prompt.whole_machine ? "waits" : "no";
  if (job.runs.length < 2 || mine.standing !== null) return "no";
  if (mine.seq !== now.seq) return now.prompt.whole_machine ? "waits" : "no";
  const together = job.task?.runs.some((each) => each.run === run) ?? false;
  return mine.waits !== "" || job.moves_on === run || together ? "yes" : "no";
}

/** The one key at the end of a stage: on to the next wheel, or what is done once to the machine. */
export function NextWheel({ machine, run, job }: Props) {
  const navigate = useNavigate();
  const each = useEach(machine);
  const { task } = job;
  const next = job.runs.find((other) => other.run === job.next);
  const isTask = task?.runs.some((other) => other.run === run) ?? false;
  const press = () => {
    if (task && isTask) {
      const happened = { kind: task.act.kind, how: task.act.how ?? null, option: task.act.option ?? null };
      each.record(
        task.runs.map((of) => ({ run: of.run, happened: { ...happened, pull: of.pull, claimed_seq: of.seq + 1 } })),
      );
    } else if (next) navigate(`/runs/${next.run}`);
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
