import { useQuery } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { modelQuery } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Trouble } from "../../parts/Trouble";

/** What was found out about this machine; a wrong answer, or a converted machine, is answered anew. */
export function Variant({ machine }: { machine: Schemas["Machine"] }) {
  const { data: model } = useQuery(modelQuery(machine.maker, machine.model));
  const params = { path: { machine_id: machine.id } };
  const answer = useCommand({
    body: ({ id }, given: { attribute: string; value: string }) => ({ id, ...given }),
    send: (body) => ask(api.POST("/api/machines/{machine_id}/variant", { params, body })),
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
