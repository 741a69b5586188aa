import { TimerReset } from "lucide-react";
import { Link } from "react-router";
import { address } from "../api/addresses";
import type { Schemas } from "../api/client";
import { useCommand } from "../api/command";
import { touched } from "../api/queries";
import { day, inOneLine, moment, standingWords } from "./format";
import { StateIcon } from "./StateMark";

/** Where a place is looked at: the card of what has ended, the run that goes on. */
export const placePath = ({ run, standing }: Schemas["PlaceNow"]): string =>
  standing ? `/runs/${run}/card` : `/runs/${run}`;

/** Joints that need somebody, the worst first; how they stand is said in words and in shape. */
export function Places({ places }: { places: readonly Schemas["PlaceNow"][] }) {
  return (
    <ul className="flex flex-col gap-2">
      {places.map((place) => (
        <li key={place.run}>
          <Link
            to={placePath(place)}
            className={`rounded-box flex items-center gap-4 border-2 p-3 ${place.state === "do not move" ? "border-error" : "border-base-300"}`}
          >
            <StateIcon state={place.state} />
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

/** Where a follow-up is prepared: at its place, with the wrench that the joint was tightened with. */
export const followupPath = (followup: Schemas["OpenFollowup"]): string =>
  `/specs/${followup.spec}/prepare?machine=${followup.machine}&procedure=${followup.due.procedure}&place=${encodeURIComponent(followup.position_key)}&wrench=${encodeURIComponent(followup.wrenches[0] ?? "")}`;

/** Re-torques that are due, soon due or to come; each starts a short run of its own. */
export function Followups({ followups }: { followups: readonly Schemas["OpenFollowup"][] }) {
  return (
    <ul className="flex flex-col gap-2">
      {followups.map((followup) => (
        <li key={`${followup.root}${followup.due.followup}`} className="flex flex-wrap items-stretch gap-1">
          <Link
            to={followupPath(followup)}
            className={`rounded-box flex min-w-64 flex-1 items-center gap-4 border-2 p-3 ${["due", "overdue"].includes(followup.due.status) ? "border-warning" : "border-base-300"}`}
          >
            <TimerReset aria-hidden="true" size={30} className="shrink-0" />
            <span className="flex-1">
              <span className="block text-lg font-bold">
                {inOneLine(followup.fleet_number, followup.position, SAY[followup.due.status])}
              </span>
              <span className="block">
                {followup.title}: {followup.due.words}
                {followup.due.by_date &&
                  `${followup.due.words ? ", at the latest " : "by "}${day(followup.due.by_date)}`}
              </span>
              <span className="block text-sm">
                {followup.wrenches.join(", ")} · {followup.fasteners} fasteners, 1 person, about {followup.minutes} min
                {followup.due.begins_again && ` · ${followup.due.begins_again}`}
              </span>
            </span>
          </Link>
          <a
            className="btn btn-ghost h-auto"
            href={`/api/followups/${followup.root}/${followup.due.followup}/tag.pdf`}
            target="_blank"
            rel="noreferrer"
            aria-label={`tag for ${followup.fleet_number} ${followup.position}`}
          >
            Tag
          </a>
          {followup.due.event && followup.due.status === "waiting" && <EventKey followup={followup} />}
        </li>
      ))}
    </ul>
  );
}

/** What a follow-up waits for has happened, or comes now: it is due. */
function EventKey({ followup }: { followup: Schemas["OpenFollowup"] }) {
  const happened = useCommand({
    body: ({ id }) => ({ id, run: followup.root, followup: followup.due.followup }),
    to: address("/api/machines/{machine_id}/events", { path: { machine_id: followup.machine } }),
    changes: touched.machines,
  });
  return (
    <button type="button" className="btn" onClick={() => happened.press(undefined)}>
      It is so now: {followup.due.words}
    </button>
  );
}
