import { CircleDashed } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { useUnsent } from "../../core/useUnsent";
import { newId } from "../../parts/ids";
import { Reasons } from "../../parts/Reasons";
import { Trouble } from "../../parts/Trouble";
import { JobLine } from "./JobLine";
import { Sequence } from "./Sequence";
import { inEachRun, useEach } from "./useEach";

const STOPS = ["end of shift", "the phone", "a part is missing", "called away"];
type Props = { machine: string; job: Schemas["JobNow"]; people: ReadonlyMap<string, string> };

/** The open job: what comes now for this tablet, every run of it, its sequence, and the ways to stop and to end. */
export function JobPanel({ machine, job, people }: Props) {
  const each = useEach(machine);
  const [stopping, setStopping] = useState(false);
  const going = job.runs.filter((run) => run.standing === null && !run.paused && run.touched);
  const stop = (text: string) => {
    each.record(going.map(({ run }) => ({ run, happened: { kind: "paused", text } })));
    setStopping(false);
  };
  return (
    <section aria-label="job" className="flex flex-col gap-3">
      {job.runs.some((run) => run.standing === null && run.touched) && (
        <p className="bg-warning text-warning-content rounded-box flex items-center gap-3 p-3 text-lg font-bold">
          <CircleDashed aria-hidden="true" size={26} /> Not finished, do not move it.
        </p>
      )}
      <NextKey job={job} each={each} />
      <ul className="flex flex-col">
        {job.runs.map((run) => (
          <JobLine key={run.run} run={run} people={people} next={run.run === job.next} />
        ))}
      </ul>
      <Ends machine={machine} job={job} />
      <Trouble error={each.error} />
      {stopping ? (
        <Reasons reasons={STOPS} onGive={stop}>
          <b>Everybody stops here.</b> Who comes next reads how each wheel stands, and why. Because of:
        </Reasons>
      ) : (
        going.length > 0 && (
          <button type="button" className="btn self-start" disabled={each.busy} onClick={() => setStopping(true)}>
            Stop here, hand over
          </button>
        )
      )}
      <Sequence stages={job.sequence} />
    </section>
  );
}

/** The main key: the next useful pull for this tablet, or what is done to the machine once for all. */
function NextKey({ job, each }: { job: Schemas["JobNow"]; each: ReturnType<typeof useEach> }) {
  const { task } = job;
  const next = job.runs.find((run) => run.run === job.next);
  if (task) {
    return (
      <button
        type="button"
        className="btn btn-primary min-h-24 flex-col gap-0 text-2xl"
        disabled={each.busy}
        onClick={() => each.record(inEachRun(task))}
      >
        {task.say}
        <span className="text-base font-normal">done once, recorded for {task.where.join(", ")}</span>
      </button>
    );
  }
  if (!next) return null;
  return (
    <Link className="btn btn-primary min-h-24 flex-col gap-0 text-2xl" to={`/runs/${next.run}`}>
      {next.position || next.title}
      <span className="text-base font-normal">
        next for this tablet: {next.stage}
        {next.figure && ` · ${next.figure.figure} ${next.figure.unit}`}
      </span>
    </Link>
  );
}

/** Ends and signs, with one press, every run in which nothing is left to do and nothing is wrong. */
function Ends({ machine, job }: Omit<Props, "people">) {
  const { unsent, away } = useUnsent();
  const good = job.runs.filter((run) => run.standing === null && run.finished && run.clean);
  const end = useCommand({
    body: ({ at_device }) => ({
      at_device,
      ends: good.map(({ run, seq }) => ({ run, seq, id: newId(), signature: newId() })),
    }),
    to: address("/api/jobs/ends"),
    changes: [["job", machine], ["machine"], ["dashboard"], ["run"]],
  });
  if (good.length === 0) return null;
  return (
    <>
      <button
        type="button"
        className="btn btn-success min-h-16 text-xl"
        disabled={unsent > 0 || away || end.isPending}
        onClick={() => end.press(undefined)}
      >
        Good: end and sign {good.map((run) => run.position || run.title).join(", ")}
      </button>
      {(unsent > 0 || away) && <p>A run ends on the server, once everything is there. Not sent yet: {unsent}.</p>}
      <Trouble error={end.error} />
    </>
  );
}
