import { Link } from "react-router";
import type { Schemas } from "../../api/client";

type Props = {
  wrenches: readonly Schemas["Choice"][];
  value: string | null;
  onChange: (id: string) => void;
};

/** The short list: what each wrench will be set to, stage by stage, and what speaks for it and against it. */
export function WrenchList({ wrenches, value, onChange }: Props) {
  const able = wrenches.filter((one) => !one.refused);
  return (
    <fieldset>
      <legend className="mb-2 text-lg font-bold">Wrench</legend>
      <ul className="flex flex-col gap-2">
        {able.map(({ wrench, settings, for_it, against }) => (
          <li key={wrench.id}>
            <button
              type="button"
              aria-pressed={value === wrench.id}
              className={`rounded-field flex min-h-14 w-full flex-wrap items-baseline gap-x-4 border-2 px-4 py-2 text-left ${value === wrench.id ? "border-primary bg-primary text-primary-content" : "border-base-content/40"}`}
              onClick={() => onChange(wrench.id)}
            >
              <Named wrench={wrench} />
              <span className="ml-auto">
                set to {settings.map((shown) => shown.figure).join(", then ")} {wrench.unit}
              </span>
              <span className="w-full text-sm">
                {[...for_it, ...against.map((reason) => `but ${reason}`)].join("; ")}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {able.length === 0 && <p className="mt-2">No wrench in the crib can do this joint.</p>}
    </fieldset>
  );
}

/** Those that cannot do it, each with its reason. */
export function RefusedWrenches({ wrenches }: { wrenches: readonly Schemas["Choice"][] }) {
  return (
    <section aria-label="wrenches that cannot do it" className="flex flex-col gap-2">
      {wrenches
        .filter((one) => one.refused)
        .map(({ wrench, refused }) => (
          <button
            key={wrench.id}
            type="button"
            disabled
            className="rounded-field border-base-content/40 flex min-h-14 w-full flex-wrap items-baseline gap-x-4 border-2 border-dashed px-4 py-2 text-left"
          >
            <Named wrench={wrench} />
            <span className="w-full">{refused}</span>
          </button>
        ))}
      <Link className="btn btn-ghost self-start" to="/add/wrench">
        Add a wrench
      </Link>
    </section>
  );
}

function Named({ wrench }: { wrench: Schemas["Wrench"] }) {
  return (
    <>
      <b className="text-lg">{wrench.name}</b>
      <span>
        {wrench.lowest}–{wrench.highest} {wrench.unit}
      </span>
    </>
  );
}
