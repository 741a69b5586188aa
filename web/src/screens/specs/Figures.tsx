import { Fragment } from "react";
import type { Schemas } from "../../api/client";
import { figure, limits } from "../../parts/format";

/** What each kind of fastener is taken to, stage after stage: the spec's own figures large, then every unit. */
export function Figures({ sheet }: { sheet: Schemas["Sheet"] }) {
  if (sheet.refused) {
    return (
      <p role="alert" className="border-error border-l-8 pl-4 text-xl">
        <b>It cannot be followed.</b> {sheet.refused}
      </p>
    );
  }
  return (
    <>
      {sheet.figures.map((figure) => (
        <OfKind key={figure.stages.named} row={figure} />
      ))}
      {sheet.measured.map((stage) => (
        <p key={stage.step} className="text-2xl font-bold">
          {stage.words}
        </p>
      ))}
    </>
  );
}

function OfKind({ row }: { row: Schemas["Figure"] }) {
  const { stages, named } = row.stages;
  const own = stages.map((stage, place) => (stage.main ? place : -1)).filter((place) => place >= 0);
  const large = stages.slice(own[0] ?? 0, (own.at(-1) ?? -1) + 1); // with what comes between: a nut that is loosened again
  const short = large.reduce((length, stage) => length + stage.words.length, 0) < 16;
  const [written, ...others] = row.units;
  return (
    <section aria-label={`stages of ${named}`}>
      <p className={`font-bold ${short ? "text-5xl lg:text-6xl" : "text-3xl"}`}>
        {large.map((stage, place) => (
          <Fragment key={stage.step}>
            {place > 0 && " → "}
            <span className="whitespace-nowrap">{stage.words}</span>
          </Fragment>
        ))}
      </p>
      <p className="text-base-content/80 mt-1">
        {row.count} × {named} {row.thread}
        {row.about && ` · ${row.about}`}
        {written && ` · aim ${figure(written)}`}
      </p>
      {stages.length > large.length && (
        <p className="mt-1 text-lg">
          In stages: {stages.map((stage) => stage.words.replaceAll(" ", "\u00a0")).join(" → ")}
        </p>
      )}
      <ul className="mt-1 flex flex-wrap gap-x-6 text-lg">
        {others.map((shown) => (
          <li key={shown.unit}>
            {figure(shown)} <span className="text-base-content/80 text-sm">{limits(shown)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
