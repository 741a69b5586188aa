import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { machineQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { moment, standingWords } from "../../parts/format";
import { Followups, Places } from "../../parts/Standing";
import { Waiting } from "../../parts/Waiting";
import { MeterEntry } from "./MeterEntry";
import { Variant } from "./Variant";

/** One machine as it stands, and what was done on it. */
export function MachineScreen() {
  const { id = "" } = useParams();
  const { data: now, error } = useQuery(machineQuery(id));
  if (!now) return <Waiting error={error} />;
  const { machine } = now;
  const facts = [
    machine.year && `model year ${machine.year}`,
    machine.registration,
    machine.vin && `VIN ${machine.vin}`,
    machine.serial && `serial ${machine.serial}`,
  ].filter(Boolean);
  return (
    <Frame
      title={`${machine.fleet_number} · ${machine.maker} ${machine.model}`}
      aside={<span className="pr-3">{machine.what}</span>}
    >
      <div className="mx-auto flex max-w-4xl flex-col gap-5 p-4">
        {now.attention.length > 0 && <Places places={now.attention} />}
        <p className="flex flex-wrap gap-2">
          <Link className="btn btn-primary min-h-16 text-xl" to={`/?machine=${machine.id}`}>
            Find a joint of {machine.fleet_number}
          </Link>
          <Link
            className="btn"
            to={`/models?maker=${encodeURIComponent(machine.maker)}&model=${encodeURIComponent(machine.model)}`}
          >
            All of {machine.maker} {machine.model}
          </Link>
          <a className="btn" href={`/api/spec-files/booklet.pdf?machine=${machine.id}`} download>
            Booklet to carry (PDF)
          </a>
        </p>
        {facts.length > 0 && <p>{facts.join(" · ")}</p>}
        {now.vin?.warning && <p className="border-warning border-l-8 pl-4">{now.vin.warning}</p>}
        <Variant machine={machine} />
        <MeterEntry now={now} />
        {now.followups.length > 0 && (
          <section aria-label="follow-ups">
            <h2 className="mb-2 text-lg font-bold">Re-torque</h2>
            <Followups followups={now.followups} />
          </section>
        )}
        <section aria-label="history">
          <h2 className="mb-2 text-lg font-bold">Done here</h2>
          {now.history.length === 0 && <p>Nothing yet.</p>}
          <ul>
            {now.history.map((run) => (
              <li key={run.run} className="border-base-300 border-b">
                <Link
                  className="flex flex-wrap gap-x-4 py-3"
                  to={run.standing ? `/runs/${run.run}/card` : `/runs/${run.run}`}
                >
                  <b>{standingWords(run.standing)}</b>
                  <span>{run.position}</span>
                  <span className="flex-1">{run.title}</span>
                  <span>{moment(run.at)}</span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      </div>
    </Frame>
  );
}
