import { Field } from "../../../parts/Field";
import type { Offered } from "./tooling";

type Props = {
  offered: Offered;
  axle: string;
  load: string;
  supports: readonly string[];
  onLoad: (load: string) => void;
  onSupports: (supports: string[]) => void;
};

/** What holds the corner: the axle's load if nobody has said it yet, the jack and the stands, the sum. */
export function HeldBy({ offered, axle, load, supports, onLoad, onSupports }: Props) {
  return (
    <section aria-label="held by" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">Held by</h2>
      <div className="flex flex-wrap gap-2">
        {offered.supports.map((support) => {
          const on = supports.includes(support.id);
          return (
            <button
              key={support.id}
              type="button"
              aria-pressed={on}
              className={`btn h-auto py-2 ${on ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
              onClick={() => onSupports(on ? supports.filter((id) => id !== support.id) : [...supports, support.id])}
            >
              {support.name}, {support.rated_kg.toLocaleString("en-GB")} kg
            </button>
          );
        })}
      </div>
      {offered.axle_kg == null && axle && (
        <Field
          label={`Load of the ${axle} axle, kg`}
          hint="kept with the machine; leave it empty if you do not know"
          inputMode="numeric"
          value={load}
          onChange={(event) => onLoad(event.target.value.replace(/[^0-9]/g, ""))}
        />
      )}
      {offered.too_weak ? (
        <p role="alert" className="bg-warning text-warning-content rounded-box p-3 text-lg font-bold">
          {offered.too_weak}
        </p>
      ) : (
        <p className="text-lg">{offered.held}</p>
      )}
    </section>
  );
}
