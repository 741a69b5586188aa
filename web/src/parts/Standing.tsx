import { CircleDashed, Flag, OctagonX, TimerReset } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { day, inOneLine, moment, standingWords } from "./format";

function Mark({ standing }: { standing: string | null | undefined }) {
  if (standing === "do not move") return <OctagonX aria-hidden="true" size={30} />;
  if (standing === "abandoned") return <Flag aria-hidden="true" size={30} />;
  return <CircleDashed aria-hidden="true" size={30} />;
}

/** Joints that need somebody, the worst first; red is said in words and in shape too. */
export function Places({ places }: { places: readonly Schemas["PlaceNow"][] }) {
  return (
    <ul className="flex flex-col gap-2">
      {places.map((place) => (
        <li key={place.run}>
          <Link
            to={place.standing ? `/runs/${place.run}/card` : `/runs/${place.run}`}
            className={`rounded-box flex items-center gap-4 p-3 ${place.standing === "do not move" ? "bg-error text-error-content" : "bg-warning text-warning-content"}`}
          >
            <Mark standing={place.standing} />
            <span className="flex-1">
              <span className="block text-xl font-bold">
                {inOneLine(
                  place.fleet_number,
                  place.position,
                  place.unreadable ? "cannot be read" : standingWords(place.standing),
                )}
              </span>
              <span className="block">
                {place.title}
                {place.standing === null && !place.untouched && ", do not move it"}
                {place.tightened_again && ", tightened again since: a lead lifts it"}
                {place.reasons.length > 0 && ` · ${place.reasons.join("; ")}`}
              </span>
            </span>
            <span className="text-sm">{moment(place.at)}</span>
          </Link>
        </li>
      ))}
    </ul>
  );
}

const SAY = { overdue: "overdue", due: "due", soon: "due soon", waiting: "to come" } as const;

/** Re-torques that are due, soon due or to come; each starts a short run of its own. */
export function Followups({ followups }: { followups: readonly Schemas["OpenFollowup"][] }) {
  return (
    <ul className="flex flex-col gap-2">
      {followups.map((followup) => (
        <li key={`${followup.root}${followup.due.followup}`}>
          <Link
            to={`/specs/${followup.spec}/prepare?machine=${followup.machine}&procedure=${followup.due.procedure}&place=${encodeURIComponent(followup.position_key)}`}
            className={`rounded-box flex items-center gap-4 border-2 p-3 ${["due", "overdue"].includes(followup.due.status) ? "border-warning bg-warning text-warning-content" : "border-base-300"}`}
          >
            <TimerReset aria-hidden="true" size={30} />
            <span className="flex-1">
              <span className="block text-lg font-bold">
                {inOneLine(followup.fleet_number, followup.position, SAY[followup.due.status])}
              </span>
              <span className="block">
                {followup.title}: {followup.due.words}
                {followup.due.by_date &&
                  `${followup.due.words ? ", at the latest " : "by "}${day(followup.due.by_date)}`}
              </span>
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
