import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { inOneLine, moment } from "../../parts/format";
import { STATE_WORDS, StateIcon } from "../../parts/StateMark";

type Joint = Schemas["JointAt"];

/** The joints of a place: how each stands, its last card, what is due, and the key to work on it. */
export function JointLines({ machine, joints }: { machine: string; joints: readonly Joint[] }) {
  return (
    <ul className="flex flex-col gap-1">
      {joints.map((joint) => (
        <li
          key={`${joint.joint}${joint.position_key}`}
          className="border-base-300 flex items-center gap-3 border-b py-1"
        >
          <StateIcon state={joint.state} />
          <span className="min-w-0 flex-1">
            <b className="block">{inOneLine(joint.title, joint.position)}</b>
            <span className="text-base-content/80 block text-sm">
              {STATE_WORDS[joint.state]}
              {joint.at && joint.state !== "open" && ` ${moment(joint.at)}`}
              {joint.due && ` · ${joint.due}`}
            </span>
          </span>
          {joint.run && joint.state !== "open" && (
            <Link className="btn btn-ghost" to={`/runs/${joint.run}/card`} aria-label={`card of ${joint.title}`}>
              Card
            </Link>
          )}
          <Link
            className={`btn ${joint.state === "done" ? "" : "btn-primary"}`}
            to={
              joint.state === "open"
                ? `/runs/${joint.run}`
                : `/specs/${joint.spec}/prepare?machine=${machine}&procedure=${joint.procedure}&place=${encodeURIComponent(joint.position_key)}`
            }
          >
            {joint.state === "open" ? "Go on" : joint.procedure === "tighten" ? "Tighten" : "Re-torque"}
          </Link>
        </li>
      ))}
    </ul>
  );
}
