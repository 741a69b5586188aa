import { ChevronDown, ChevronRight } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Followups, followupPath, Places, placePath } from "./Standing";
import { StateIcon } from "./StateMark";

type Line = Schemas["MachineInBay"];

/** A line for each machine: its number, the most serious thing by shape and colour, what is wanted next and by whom. It opens. */
export function BayLines({ lines }: { lines: readonly Line[] }) {
  return (
    <ul className="border-base-300 border-t">
      {lines.map((line) => (
        <li key={line.machine} className="border-base-300 border-b">
          <BayLine line={line} />
        </li>
      ))}
    </ul>
  );
}

const ROW = "flex min-h-16 w-full items-center gap-x-4 py-2";

function BayLine({ line }: { line: Line }) {
  const [place, followup] = [line.places[0], line.followups[0]];
  const only = line.places.length + line.followups.length === 1;
  if (only && place)
    return (
      <Link to={placePath(place)} className={ROW}>
        <Told line={line} />
        <ChevronRight aria-hidden="true" size={26} className="shrink-0" />
      </Link>
    );
  if (only && followup && line.state === "due")
    return (
      <Link to={followupPath(followup)} className={ROW}>
        <Told line={line} />
        <ChevronRight aria-hidden="true" size={26} className="shrink-0" />
      </Link>
    );
  return (
    <details className="group">
      <summary className={`${ROW} cursor-pointer list-none`}>
        <Told line={line} />
        <ChevronDown aria-hidden="true" size={26} className="shrink-0 group-open:rotate-180" />
      </summary>
      <div className="flex flex-col gap-2 pb-3 sm:pl-14">
        {line.places.length > 0 && <Places places={line.places} />}
        {line.followups.length > 0 && <Followups followups={line.followups} />}
      </div>
    </details>
  );
}

const SYMBOL: Partial<Record<Line["state"], string>> = { "do not move": "×", "in doubt": "?" };

function Told({ line }: { line: Line }) {
  const isRed = line.state === "do not move";
  return (
    <>
      <StateIcon state={line.state} label={SYMBOL[line.state] ?? ""} />
      <span className="flex min-w-0 flex-1 flex-wrap items-baseline gap-x-4">
        <b className="text-xl sm:w-24">{line.fleet_number}</b>
        <b className={isRed ? "text-error" : ""}>{line.state}</b>
        <span className="max-sm:basis-full sm:min-w-48 sm:flex-1">{line.wanted}</span>
        {line.by && <span className="text-base-content/80 text-sm">{line.by}</span>}
      </span>
    </>
  );
}
