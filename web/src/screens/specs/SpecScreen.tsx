import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { specQuery } from "../../api/queries";
import { FastenerMap } from "../../parts/FastenerMap";
import { Frame } from "../../parts/Frame";
import { Trust } from "../../parts/Trust";
import { Waiting } from "../../parts/Waiting";
import { Figures } from "./Figures";
import { History } from "./History";
import { Procedures } from "./Procedures";
import { SpecFacts } from "./SpecFacts";

const startable = ({ status }: Schemas["SpecFile"]): boolean => status !== "superseded" && status !== "withdrawn";

/** The spec sheet: the figure first, as written, then everything that goes with it. */
export function SpecScreen() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const machine = search.get("machine");
  const revision = search.get("revision");
  const { data: file, error } = useQuery(specQuery(id, revision));
  if (!file) return <Waiting error={error} />;
  const { spec, sheet } = file;
  const on = file.machines.find((each) => each.id === machine);
  const prepare = on && startable(file) && (
    <Link className="btn btn-primary min-h-20 text-2xl" to={`/specs/${id}/prepare?machine=${on.id}`}>
      Prepare {on.fleet_number}
    </Link>
  );
  return (
    <Frame
      title={`${on ? `${on.fleet_number} · ` : ""}${spec.title}`}
      aside={
        <Link className="btn btn-ghost" to={`/specs/${id}/edit`}>
          New revision
        </Link>
      }
      guide={sheet.guide}
      foot={prepare}
    >
      <div className="grid gap-6 p-4 md:grid-cols-[minmax(0,1fr)_18rem] lg:grid-cols-[minmax(0,1fr)_26rem]">
        <section aria-label="figure" className="flex flex-col gap-4">
          <Trust file={file} />
          <Figures sheet={sheet} />
          <p className="text-2xl">
            {sheet.threads} · {sheet.hand}
          </p>
          <Procedures sheet={sheet} />
          <SpecFacts file={file} />
          <History spec={spec.id} shown={spec.revision} />
        </section>
        <section aria-label="map" className="flex flex-col gap-4">
          <div className="flex max-h-96 flex-col">
            <FastenerMap layout={spec.layout} clockwise={spec.thread_hand === "right"} />
          </div>
          {sheet.count > 1 &&
            Object.entries(spec.layout.orders).map(([name, order]) => (
              <p key={name}>
                {name === "main" ? "Pulled in the order " : `Order “${name}” `}
                <b>{order.map((rank) => (Array.isArray(rank) ? rank.join("+") : rank)).join(" · ")}</b>
                <span className="text-base-content/80 block">{sheet.orders[name]}</span>
              </p>
            ))}
          {sheet.count > 1 && (
            <Link className="link" to={`/lab/joint?spec=${id}`}>
              Open it in the lab: why this order
            </Link>
          )}
          {!startable(file) ? (
            <Link className="btn" to={`/specs/${id}${machine ? `?machine=${machine}` : ""}`}>
              Revision {spec.revision} is {file.status}: open the one in force
            </Link>
          ) : on ? (
            <>
              <div className="flex flex-col max-md:hidden">{prepare}</div>
              <Link className="btn" to={`/specs/${id}/prepare?machine=${on.id}&procedure=remove`}>
                Loosen it, in the reverse order
              </Link>
            </>
          ) : (
            <div className="flex flex-col gap-2">
              <p className="font-bold">On which machine?</p>
              {file.machines.map((each) => (
                <Link key={each.id} className="btn" to={`/specs/${id}/prepare?machine=${each.id}`}>
                  Prepare {each.fleet_number}
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
