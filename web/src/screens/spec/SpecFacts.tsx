import type { Schemas } from "../../api/client";

/** Seat, condition, re-torque, cautions, source: what is small on paper and decides the job. */
export function SpecFacts({ file }: { file: Schemas["SpecFile"] }) {
  const { spec, sheet } = file;
  const source = [spec.source.document, spec.source.page && `page ${spec.source.page}`, spec.source.edition].filter(
    Boolean,
  );
  const facts = [
    ["Seat", spec.seat],
    ["Condition", spec.condition],
    ["For", spec.applies_to.map((one) => `${one.maker} ${one.model}`).join(", ")],
    ["Re-torque", sheet.followups.join("; ") || "none stated"],
    ["Source", `${source.join(", ")} · ${spec.source.grade}`],
    ["Revision", `${spec.revision}`],
  ];
  return (
    <>
      <dl className="grid grid-cols-[8rem_1fr] gap-y-1">
        {facts
          .filter(([, text]) => text)
          .map(([name, text]) => (
            <div key={name} className="contents">
              <dt className="text-base-content/80">{name}</dt>
              <dd>{text}</dd>
            </div>
          ))}
      </dl>
      <ul aria-label="cautions" className="border-warning border-l-8 pl-4">
        {[...spec.cautions, sheet.caution].map((caution) => (
          <li key={caution}>{caution}</li>
        ))}
      </ul>
    </>
  );
}
