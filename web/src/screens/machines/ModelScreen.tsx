import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { modelQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { Waiting } from "../../parts/Waiting";
import { HitLine, hitPath } from "../search/HitLine";

/** A kind of machine: what separates its variants, which of the fleet it is, and everything on file, by system. */
export function ModelScreen() {
  const [search] = useSearchParams();
  const [maker, model] = [search.get("maker") ?? "", search.get("model") ?? ""];
  const { data: file, error } = useQuery(modelQuery(maker, model));
  if (!file) return <Waiting error={error} />;
  const systems = new Map<string, Schemas["Hit"][]>();
  for (const hit of file.found.hits) systems.set(hit.system, [...(systems.get(hit.system) ?? []), hit]);
  const choice = `maker=${encodeURIComponent(file.maker)}&model=${encodeURIComponent(file.model)}`;
  return (
    <Frame title={`${file.maker} ${file.model}`}>
      <div className="mx-auto flex max-w-5xl flex-col gap-5 p-4">
        <p className="flex flex-wrap gap-2">
          {file.machines.map((machine) => (
            <Link key={machine.id} className="btn btn-primary" to={`/?machine=${machine.id}`}>
              {machine.fleet_number}
            </Link>
          ))}
          {file.machines.length === 0 && <span>No machine of the fleet is one.</span>}
          <a className="btn" href={`/api/spec-files/booklet.pdf?${choice}`} download>
            Booklet to carry (PDF)
          </a>
        </p>
        {file.variants.length > 0 && (
          <p className="border-primary border-l-8 pl-4 text-lg">
            What separates one from another:{" "}
            {file.variants.map((variant) => `${variant.attribute}: ${variant.values.join(", ")}`).join(" · ")}
          </p>
        )}
        {[...systems].map(([system, hits]) => (
          <section key={system} aria-label={system}>
            <h2 className="text-lg font-bold">{system}</h2>
            <ul>
              {hits.map((hit) => (
                <li key={`${hit.spec}${hit.revision}`} className="border-base-300 border-b">
                  <HitLine hit={hit} to={hitPath(hit, null)} here={false} />
                </li>
              ))}
            </ul>
          </section>
        ))}
        {file.found.hits.length === 0 && <p>No spec on file for this model.</p>}
        {file.found.more && (
          <Link className="link" to={`/?${choice}`}>
            There are more: search among them
          </Link>
        )}
      </div>
    </Frame>
  );
}
