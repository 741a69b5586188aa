import { useState } from "react";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { formBodyValues } from "../../api/values";
import { Choice } from "../../parts/Choice";
import { Trouble } from "../../parts/Trouble";

type Form = Schemas["Form"];
const BARE: Form = {
  body: "tractor",
  axles: [
    { name: "front", duals: false },
    { name: "rear", duals: false },
  ],
  engine: "front",
  cylinders: 0,
  hitch: null,
  boom: false,
};
const words = <T extends string>(values: readonly T[]) => values.map((value) => ({ value, say: value }));
const ENDS: { value: NonNullable<Form["engine"]> | "none"; say: string }[] = [
  { value: "front", say: "front" },
  { value: "middle", say: "middle" },
  { value: "rear", say: "rear" },
  { value: "none", say: "none" },
];

/** What the machine looks like from above: its body, its axles, what else stands on it. */
export function FormOfMachine({ machine }: { machine: Schemas["Machine"] }) {
  const [form, setForm] = useState<Form>(machine.form ?? BARE);
  const keep = useCommand({
    body: ({ id }, given: Form) => ({ id, form: given }),
    to: address("/api/machines/{machine_id}/form", { path: { machine_id: machine.id } }),
    changes: touched.machines,
  });
  const axles = form.axles ?? [];
  const axle = (place: number, change: Partial<Schemas["Axle"]>) =>
    setForm({ ...form, axles: axles.map((each, n) => (n === place ? { ...each, ...change } : each)) });
  return (
    <details>
      <summary className="min-h-12 cursor-pointer py-3 font-bold">What it looks like from above</summary>
      <div className="flex flex-col gap-4">
        <Choice
          label="Body"
          options={words(formBodyValues)}
          value={form.body}
          onChange={(body) => setForm({ ...form, body })}
        />
        <fieldset className="flex flex-col gap-2">
          <legend className="mb-2 text-lg font-bold">Axles, from the front</legend>
          {axles.map((each, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: an axle is its place
            <div key={place} className="flex flex-wrap gap-2">
              <input
                className="input bg-base-100 w-40"
                aria-label={`name of axle ${place + 1}`}
                value={each.name}
                onChange={(event) => axle(place, { name: event.target.value })}
              />
              <button
                type="button"
                aria-pressed={each.duals ?? false}
                className={`btn ${each.duals ? "btn-primary" : ""}`}
                onClick={() => axle(place, { duals: !each.duals })}
              >
                two wheels a side
              </button>
              <button
                type="button"
                className="btn btn-ghost"
                onClick={() => setForm({ ...form, axles: axles.filter((_, n) => n !== place) })}
              >
                Leave out
              </button>
            </div>
          ))}
          <button
            type="button"
            className="btn self-start"
            onClick={() => setForm({ ...form, axles: [...axles, { name: `axle ${axles.length + 1}`, duals: false }] })}
          >
            One more axle
          </button>
        </fieldset>
        <Choice
          label="Engine"
          options={ENDS}
          value={form.engine ?? "none"}
          onChange={(engine) => setForm({ ...form, engine: engine === "none" ? null : engine })}
        />
        <Choice
          label="Hitch"
          options={ENDS}
          value={form.hitch ?? "none"}
          onChange={(hitch) => setForm({ ...form, hitch: hitch === "none" ? null : hitch })}
        />
        <button type="button" className="btn btn-primary self-start" onClick={() => keep.press(form)}>
          Keep
        </button>
        <Trouble error={keep.error} />
      </div>
    </details>
  );
}
