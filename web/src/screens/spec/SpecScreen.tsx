import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { specQuery } from "../../api/queries";
import { FastenerMap } from "../../parts/FastenerMap";
import { Frame } from "../../parts/Frame";
import { figure, limits } from "../../parts/format";
import { Waiting } from "../../parts/Waiting";
import { History } from "./History";
import { SpecFacts } from "./SpecFacts";

/** The spec sheet: the figure first, as written, then everything that goes with it. */
export function SpecScreen() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const machine = search.get("machine");
  const revision = search.get("revision");
  const { data: file, error } = useQuery(specQuery(id, revision));
  if (!file) return <Waiting error={error} />;
  const { spec, sheet } = file;
  const on = file.machines.find((one) => one.id === machine);
  const kind = Object.values(spec.layout.kinds)[0];
  return (
    <Frame
      title={`${on ? `${on.fleet_number} · ` : ""}${spec.title}`}
      aside={<Trust status={file.status} by={file.entered_by} />}
    >
      <div className="grid gap-6 p-4 md:grid-cols-[1fr_minmax(0,26rem)]">
        <section aria-label="figure" className="flex flex-col gap-4">
          {sheet.figures.map((one) => (
            <div key={one.of}>
              <p className="text-5xl font-bold lg:text-6xl">
                {one.written || figure(one.units[0] ?? { figure: "", unit: "", low: "", high: "" })}
              </p>
              <p className="text-base-content/80 mt-1">as written · aim {one.units[0] && figure(one.units[0])}</p>
              <ul className="mt-2 flex flex-wrap gap-x-6 text-lg">
                {one.units.slice(1).map((shown) => (
                  <li key={shown.unit}>
                    {figure(shown)} <span className="text-base-content/80 text-sm">{limits(shown)}</span>
                  </li>
                ))}
              </ul>
            </div>
          ))}
          <p className="text-2xl">
            {sheet.count} × {kind?.thread} · {sheet.hand}
          </p>
          <ol aria-label="steps" className="border-base-300 border-l-4 pl-4">
            {sheet.lines.map((line, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the steps of one revision never move
              <li key={index} className="flex justify-between gap-4 py-1 text-lg">
                <span>{line.words}</span>
                {line.figures[0] && <b className="whitespace-nowrap">{figure(line.figures[0])}</b>}
              </li>
            ))}
          </ol>
          <SpecFacts file={file} />
          <History spec={spec.id} shown={spec.revision} />
        </section>
        <section aria-label="map" className="flex flex-col gap-4">
          <div className="h-96">
            <FastenerMap layout={spec.layout} clockwise={spec.thread_hand === "right"} />
          </div>
          <p>
            Pulled in the order{" "}
            <b>{spec.layout.orders.main?.map((rank) => (Array.isArray(rank) ? rank.join("+") : rank)).join(" · ")}</b>
          </p>
          {file.status === "superseded" || file.status === "withdrawn" ? (
            <Link className="btn" to={`/specs/${id}${machine ? `?machine=${machine}` : ""}`}>
              Revision {spec.revision} is {file.status}: open the one in force
            </Link>
          ) : on ? (
            <Link className="btn btn-primary min-h-20 text-2xl" to={`/specs/${id}/prepare?machine=${on.id}`}>
              Prepare {on.fleet_number}
            </Link>
          ) : (
            <div className="flex flex-col gap-2">
              <p className="font-bold">On which machine?</p>
              {file.machines.map((one) => (
                <Link key={one.id} className="btn btn-primary" to={`/specs/${id}/prepare?machine=${one.id}`}>
                  Prepare {one.fleet_number}
                </Link>
              ))}
              <Link className="btn" to="/add/machine">
                Add a machine
              </Link>
            </div>
          )}
        </section>
      </div>
    </Frame>
  );
}

function Trust({ status, by }: { status: Schemas["SpecFile"]["status"]; by: string }) {
  const say = {
    current: "checked by a second person",
    draft: `unchecked${by ? `, entered by ${by}` : ""}`,
    superseded: "superseded",
    withdrawn: "withdrawn",
  }[status];
  const look = {
    current: "bg-success text-success-content",
    draft: "bg-warning text-warning-content",
    superseded: "bg-error text-error-content",
    withdrawn: "bg-error text-error-content",
  }[status];
  return <span className={`rounded-selector px-3 py-1 ${look}`}>{say}</span>;
}
