import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { moment, standingWords } from "../../parts/format";
import { Followups } from "../../parts/Standing";
import { FormOfMachine } from "./FormOfMachine";
import { MeterEntry } from "./MeterEntry";
import { Variant } from "./Variant";

/** What is known about a machine, its meters, what is due on it, and what was done. */
export function MachineFacts({ now }: { now: Schemas["MachineNow"] }) {
  const { machine } = now;
  const facts = [
    machine.year && `model year ${machine.year}`,
    machine.registration,
    machine.vin && `VIN ${machine.vin}`,
    machine.serial && `serial ${machine.serial}`,
  ].filter(Boolean);
  return (
    <>
      {now.followups.length > 0 && (
        <section aria-label="follow-ups">
          <h2 className="mb-2 text-lg font-bold">Re-torque</h2>
          <Followups followups={now.followups} />
        </section>
      )}
      <MeterEntry now={now} />
      {facts.length > 0 && <p>{facts.join(" · ")}</p>}
      {now.vin?.warning && <p className="border-warning border-l-8 pl-4">{now.vin.warning}</p>}
      <Variant machine={machine} />
      <p className="flex flex-wrap gap-2">
        <Link
          className="btn"
          to={`/models?maker=${encodeURIComponent(machine.maker)}&model=${encodeURIComponent(machine.model)}`}
        >
          All of {machine.maker} {machine.model}
        </Link>
        <a className="btn" href={`/api/spec-files/booklet.pdf?machine=${machine.id}`} download>
          Booklet to carry (PDF)
        </a>
        {["positions", "specs"].map((of) => (
          <a
            key={of}
            className="btn"
            href={`/api/labels.pdf?of=${of}&machine=${machine.id}`}
            target="_blank"
            rel="noreferrer"
          >
            Labels of its {of}
          </a>
        ))}
      </p>
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
      <FormOfMachine machine={machine} />
    </>
  );
}
