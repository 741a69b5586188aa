import { Fragment } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";

type Props = { hit: Schemas["Hit"]; to: string; here: boolean };

/** One spec that fits: what it is, its figure, how far it can be trusted, why it is here. */
export function HitLine({ hit, to, here }: Props) {
  return (
    <Link
      to={to}
      aria-current={here}
      className={`block border-l-8 px-4 py-3 ${here ? "border-primary bg-base-200" : "border-transparent"}`}
    >
      <span className="flex flex-wrap items-baseline gap-x-3">
        <span className="text-xl font-bold">
          {hit.machine ? `${hit.machine.fleet_number} · ` : ""}
          {hit.title}
        </span>
        <span>
          {hit.maker_model}
          {hit.years && `, ${hit.years}`}
        </span>
        {hit.behind ? (
          <span className="bg-error text-error-content rounded-selector px-2">not worked to</span>
        ) : (
          !hit.checked && <span className="bg-warning text-warning-content rounded-selector px-2">unchecked</span>
        )}
      </span>
      <Stages hit={hit} />
      <span className="text-base-content/80 text-sm">
        {[
          hit.positions,
          hit.trust,
          hit.why.length > 0 && `matched ${hit.why.join(", ")}`,
          hit.fleet.length > 0 && hit.fleet.join(", "),
        ]
          .filter(Boolean)
          .join(" · ")}
      </span>
    </Link>
  );
}

/** What each kind of fastener is taken to; the spec's own figures strong. */
function Stages({ hit }: { hit: Schemas["Hit"] }) {
  return (
    <>
      <span className="block">{[hit.threads, hit.hand].filter(Boolean).join(" · ")}</span>
      {hit.figures.map((kind) => (
        <span key={kind.named} className="block text-lg">
          {hit.figures.length > 1 && kind.named && `${kind.named}: `}
          {kind.stages.map((stage, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the stages of one revision never move
            <Fragment key={place}>
              {place > 0 && " → "}
              <span className={`whitespace-nowrap ${stage.main ? "font-bold" : ""}`}>{stage.words}</span>
            </Fragment>
          ))}
        </span>
      ))}
    </>
  );
}

/** A spec's sheet, for the machine that the words or the choice named. */
export function hitPath(hit: Schemas["Hit"], machine: string | null): string {
  const query = new URLSearchParams();
  const id = machine ?? hit.machine?.id;
  if (id) query.set("machine", id);
  if (hit.behind) query.set("revision", `${hit.revision}`);
  return `/specs/${hit.spec}${query.size > 0 ? `?${query}` : ""}`;
}
