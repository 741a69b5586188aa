import { useQuery } from "@tanstack/react-query";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { modelQuery, touched } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Trouble } from "../../parts/Trouble";

/** What was found out about this machine; a wrong answer, or a converted machine, is answered anew. */
export function Variant({ machine }: { machine: Schemas["Machine"] }) {
  const { data: model } = useQuery(modelQuery(machine.maker, machine.model));
  const params = { path: { machine_id: machine.id } };
  const answer = useCommand({
    body: ({ id }, given: { attribute: string; value: string }) => ({ id, ...given }),
    to: address("/api/machines/{machine_id}/variant", params),
    changes: touched.machines,
  });
  if (!model || model.variants.length === 0) return null;
  return (
    <section aria-label="variant" className="flex flex-wrap gap-x-8 gap-y-3">
      {model.variants.map(({ attribute, values }) => (
        <Choice
          key={attribute}
          label={`${attribute}${machine.variant?.[attribute] ? "" : ", not known yet"}`}
          options={values.map((value) => ({ value, say: value }))}
          value={machine.variant?.[attribute] ?? null}
          onChange={(value) => answer.press({ attribute, value })}
        />
      ))}
      <Trouble error={answer.error} />
    </section>
  );
}
