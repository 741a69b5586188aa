import { Link } from "react-router";
import type { Schemas } from "../../api/client";

function years(one: Schemas["Applies"]): string {
  return one.year_from || one.year_to ? `, ${one.year_from ?? ""}–${one.year_to ?? ""}` : "";
}

/** Seat, condition, re-torque, cautions, source: what is small on paper and decides the job. */
export function SpecFacts({ file }: { file: Schemas["SpecFile"] }) {
  const { spec, sheet } = file;
  const tells = spec.applies_to.flatMap((one) =>
    Object.entries(one.variant ?? {}).map(([name, value]) => [
      name,
      one.tell?.[name] ? `${value}: ${one.tell[name]}` : value,
    ]),
  );
  const facts = [
    ["System", `${spec.system} · ${spec.joint}`],
    ...tells,
    ["Seat", spec.seat],
    ["Condition", spec.condition],
    ["Re-torque", sheet.followups.join("; ") || "none stated"],
    ["Source", sheet.source],
    ["Revision", `${spec.revision}`],
  ];
  return (
    <>
      {sheet.parts.length > 0 && (
        <ul aria-label="parts and places" className="border-primary border-l-8 pl-4 text-lg">
          {sheet.parts.map((part) => (
            <li key={part}>{part}</li>
          ))}
        </ul>
      )}
      <ul aria-label="cautions" className="border-warning border-l-8 pl-4">
        {[...(spec.cautions ?? []), sheet.caution].map((caution) => (
          <li key={caution}>{caution}</li>
        ))}
      </ul>
      <dl className="grid grid-cols-[8rem_1fr] gap-y-1">
        <dt className="text-base-content/80">For</dt>
        <dd className="flex flex-col">
          {spec.applies_to.map((one) => (
            <Link
              key={`${one.maker}${one.model}${JSON.stringify(one.variant)}`}
              className="link"
              to={`/models?maker=${encodeURIComponent(one.maker)}&model=${encodeURIComponent(one.model)}`}
            >
              {one.maker} {one.model}
              {years(one)}
            </Link>
          ))}
        </dd>
        {facts
          .filter(([, text]) => text)
          .map(([name, text]) => (
            <div key={`${name}${text}`} className="contents">
              <dt className="text-base-content/80">{name}</dt>
              <dd>{text}</dd>
            </div>
          ))}
      </dl>
    </>
  );
}
