import { useState } from "react";
import { Link } from "react-router";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { moment } from "../../parts/format";
import { ReasonForm } from "../../parts/ReasonForm";
import { Trouble } from "../../parts/Trouble";

type Props = { file: Schemas["ToolFile"]; id: string };

/** Every run since the tool was last known to be right: what its nuts probably got, and what was done about it. */
export function Doubted({ file, id }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const params = { path: { tool_id: id } };
  const review = useCommand({
    body: (pressed, given: { run: string; text: string }) => ({ id: pressed.id, ...given }),
    to: address("/api/tools/{tool_id}/reviews", params),
    changes: touched.tools,
    done: () => setOpen(null),
  });
  const left = file.in_doubt.filter((doubt) => !doubt.reviewed).length;
  return (
    <section aria-label="runs in doubt" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">
        In doubt: {file.doubt?.why}
        {file.doubt?.since && `, last known good ${moment(file.doubt.since)}`}
      </h2>
      {file.in_doubt.length === 0 ? (
        <p>It was not used since. Nothing to look at again.</p>
      ) : (
        <p className="text-xl">
          {file.in_doubt.length} {file.in_doubt.length === 1 ? "run" : "runs"} since then, {left || "none"} still to be
          looked at.
        </p>
      )}
      <ul className="flex flex-col gap-2">
        {file.in_doubt.map((each) => (
          <li
            key={each.run}
            className={`flex flex-col gap-2 border-l-8 pl-4 ${each.reviewed ? "border-success" : "border-warning"}`}
          >
            <p className="flex flex-wrap items-center gap-x-3">
              <Link className="link text-lg" to={`/runs/${each.run}/card`}>
                <b>{each.fleet_number}</b> {each.position}, {each.title}
              </Link>
              <span>
                {moment(each.at)}, pulls: {each.pulls}
              </span>
              {!each.reviewed && (
                <button
                  type="button"
                  className="btn btn-sm ml-auto"
                  onClick={() => setOpen(open === each.run ? null : each.run)}
                >
                  Looked at
                </button>
              )}
            </p>
            {each.probably.map((words) => (
              <p key={words} className="font-bold">
                {words}
              </p>
            ))}
            {each.reviewed && <p>Looked at: {each.reviewed}</p>}
            {open === each.run && (
              <ReasonForm
                label="what was found and done"
                action="Keep it"
                onGive={(text) => review.press({ run: each.run, text })}
              />
            )}
          </li>
        ))}
      </ul>
      <Trouble error={review.error} />
    </section>
  );
}
