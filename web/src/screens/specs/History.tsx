import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { historyQuery, touched } from "../../api/queries";
import { day } from "../../parts/format";
import { ReasonForm } from "../../parts/ReasonForm";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";

/** The revisions, what may be done with the one shown, and who was tightened to an older one. */
export function History({ spec, shown }: { spec: string; shown: number }) {
  const me = useMe();
  const { data: history } = useQuery(historyQuery(spec));
  const params = { path: { spec_id: spec, revision: shown } };
  const check = useCommand({
    body: ({ id }, _: number) => ({ id }),
    to: address("/api/specs/{spec_id}/revisions/{revision}/check", params),
    changes: touched.specs,
  });
  const withdraw = useCommand({
    body: ({ id }, reason: string) => ({ id, reason }),
    to: address("/api/specs/{spec_id}/revisions/{revision}/withdraw", params),
    changes: touched.specs,
  });
  if (!history) return null;
  const here = history.revisions.find((revision) => revision.revision === shown);
  return (
    <section aria-label="revisions" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">Revisions</h2>
      <ol>
        {history.revisions.map((each) => (
          <li key={each.revision} className="border-base-300 flex flex-wrap items-center gap-x-4 border-b py-2">
            <Link className="link" to={`/specs/${spec}?revision=${each.revision}`}>
              revision {each.revision}
            </Link>
            <b>{each.status}</b>
            <span>{each.change === "first" ? "" : `changes ${each.change}`}</span>
            <span className="flex-1">
              {each.entered_by && `entered by ${each.entered_by}, `}
              {day(each.entered_at)}
              {each.checked_by && `, checked by ${each.checked_by}`}
              {each.reason && `: ${each.reason}`}
            </span>
            {each.revision > 1 && (
              <Link className="link" to={`/specs/${spec}/compare?old=${each.revision - 1}&new=${each.revision}`}>
                what changed
              </Link>
            )}
          </li>
        ))}
      </ol>
      {history.affected.length > 0 && (
        <div className="border-error border-l-8 pl-4">
          <p className="font-bold">Tightened to an older revision: look at them</p>
          <ul>
            {history.affected.map((run) => (
              <li key={run.run}>
                <Link className="link" to={`/machines/${run.machine}`}>
                  {run.fleet_number} {run.position}
                </Link>
                , revision {run.revision}, {day(run.at)}
              </li>
            ))}
          </ul>
        </div>
      )}
      {here?.status === "draft" && (
        <button type="button" className="btn self-start" onClick={() => check.press(shown)}>
          I have held it against its document: it is right
        </button>
      )}
      <Trouble error={check.error ?? withdraw.error} />
      {me.rights.includes("withdraw_spec") && here && here.status !== "withdrawn" && (
        <ReasonForm label="reason for withdrawing it" action={`Withdraw revision ${shown}`} onGive={withdraw.press} />
      )}
    </section>
  );
}
