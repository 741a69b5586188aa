import { Link } from "react-router";
import type { Schemas } from "../../api/client";

function years(applies: Schemas["Applies"]): string {
  return applies.year_from || applies.year_to ? `, ${applies.year_from ?? ""}–${applies.year_to ?? ""}` : "";
}

/** Seat, condition, re-torque, cautions, source: what is small on paper and decides the job. */
export function SpecFacts({ file }: { file: Schemas["SpecFile"] }) {
  const { spec, sheet } = file;
  const tells = spec.applies_to.flatMap((applies) =>
    Object.entries(applies.variant ?? {}).map(([name, value]) => [
      name,
      applies.tell?.[name] ? `${value}: ${applies.tell[name]}` : value,
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
          {spec.applies_to.map((each) => (
            <Link
              key={`${each.maker}${each.model}${JSON.stringify(each.variant)}`}
              className="link"
              to={`/models?maker=${encodeURIComponent(each.maker)}&model=${encodeURIComponent(each.model)}`}
            >
              {each.maker} {each.model}
              {years(each)}
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
