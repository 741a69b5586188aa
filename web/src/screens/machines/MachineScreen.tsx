import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { machineQuery, noticesQuery, signInQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { inOneLine } from "../../parts/format";
import { MachinePicture } from "../../parts/MachinePicture";
import { NoticeStrip } from "../../parts/NoticeStrip";
import { Places } from "../../parts/Standing";
import { Waiting } from "../../parts/Waiting";
import { JobPanel } from "../jobs/JobPanel";
import { useJob } from "../jobs/useJob";
import { EnginePicture } from "./EnginePicture";
import { JointLines } from "./JointLines";
import { MachineFacts } from "./MachineFacts";

/** One machine from above: how its joints stand, the job that is open on it, and what belongs to each place. */
export function MachineScreen() {
  const { id = "" } = useParams();
  const { data: now, error } = useQuery(machineQuery(id));
  if (!now) return <Waiting error={error} />;
  return <Machine key={id} now={now} />;
}

function Machine({ now }: { now: Schemas["MachineNow"] }) {
  const { machine, map } = now;
  const [search] = useSearchParams();
  const [chosen, setChosen] = useState<string | null>(search.get("place"));
  const [site, setSite] = useState<string | null>(null);
  const job = useJob(machine.id);
  const door = useQuery(signInQuery);
  const { data: notices } = useQuery(noticesQuery(machine.id));
  const people = new Map(door.data?.people.map((person) => [person.id, person.name]) ?? []);
  const next = job?.runs.find((run) => run.run === job.next);
  const spot = map.spots.find((each) => each.key === chosen);
  const onEngine = chosen === "engine" && map.engine.length > 0;
  const part = map.engine.find((row) => row.site === site);
  return (
    <Frame
      title={`${machine.fleet_number} · ${machine.maker} ${machine.model}`}
      aside={<span className="pr-3">{machine.what}</span>}
    >
      <div className="grid h-full min-h-0 gap-4 p-3 landscape:grid-cols-[minmax(16rem,22rem)_1fr]">
        <div className="h-[52dvh] min-h-0 landscape:h-[calc(100dvh-9.5rem)]">
          {map.drawing ? (
            <MachinePicture
              map={map}
              name={machine.fleet_number}
              chosen={chosen}
              next={
                map.spots.find((each) => each.joints.some((joint) => joint.position_key === next?.position_key))?.key
              }
              onChoose={(key) => setChosen(key === chosen ? null : key)}
            />
          ) : (
            <p className="p-4">Nobody has said yet what this machine looks like from above; see further down.</p>
          )}
        </div>
        <div className="flex min-w-0 flex-col gap-4 landscape:overflow-y-auto">
          {spot && (
            <section aria-label="place" className="flex flex-col gap-2">
              <header className="flex items-center gap-3">
                <h2 className="flex-1 text-xl font-bold">{spot.words}</h2>
                <button type="button" className="btn btn-ghost" onClick={() => setChosen(null)}>
                  Whole machine
                </button>
              </header>
              {onEngine && (
                <EnginePicture
                  rows={map.engine}
                  cylinders={map.cylinders}
                  chosen={site}
                  onChoose={(key) => setSite(key === site ? null : key)}
                />
              )}
              <JointLines machine={machine.id} joints={onEngine && part ? part.joints : spot.joints} />
            </section>
          )}
          {!spot && (
            <>
              {notices && <NoticeStrip notices={notices.filter((notice) => notice.left > 0)} />}
              {now.attention.length > 0 && !job?.runs.length && <Places places={now.attention} />}
              {job && job.runs.length > 0 && <JobPanel machine={machine.id} job={job} people={people} />}
              {!map.drawing && <JointLines machine={machine.id} joints={map.spots.flatMap((each) => each.joints)} />}
              <p className="flex flex-wrap gap-2">
                <Link
                  className={`btn min-h-16 text-xl ${job?.runs.length ? "" : "btn-primary"}`}
                  to={`/?machine=${machine.id}`}
                >
                  {inOneLine(job?.runs.length ? "Another joint of" : "Find a joint of")} {machine.fleet_number}
                </Link>
              </p>
              <MachineFacts now={now} />
            </>
          )}
        </div>
      </div>
    </Frame>
  );
}
