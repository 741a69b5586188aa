import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";
import { modelQuery } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Trouble } from "../../parts/Trouble";

/** What was found out about this machine; a wrong answer, or a converted machine, is answered anew. */
export function Variant({ machine }: { machine: Schemas["Machine"] }) {
  const queries = useQueryClient();
  const { data: model } = useQuery(modelQuery(machine.maker, machine.model));
  const answer = useMutation({
    mutationFn: (body: Schemas["Described"]) =>
      ask(api.POST("/api/machines/{machine_id}/variant", { params: { path: { machine_id: machine.id } }, body })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const values = new Map<string, string[]>();
  for (const said of model?.variants ?? []) {
    const [name = "", value = ""] = said.split(": ");
    values.set(name, [...(values.get(name) ?? []), value]);
  }
  if (values.size === 0) return null;
  return (
    <section aria-label="variant" className="flex flex-wrap gap-x-8 gap-y-3">
      {[...values].map(([attribute, known]) => (
        <Choice
          key={attribute}
          label={`${attribute}${machine.variant?.[attribute] ? "" : ", not known yet"}`}
          options={known.map((value) => ({ value, say: value }))}
          value={machine.variant?.[attribute] ?? null}
          onChange={(value) => answer.mutate({ attribute, value })}
        />
      ))}
      <Trouble error={answer.error} />
    </section>
  );
}
