import { Link } from "react-router";
import type { Schemas } from "../../api/client";

type Props = {
  wrenches: readonly Schemas["WrenchChoice"][];
  value: string | null;
  onChange: (id: string) => void;
};

/** The short list: what each wrench will be set to, stage by stage, or why it cannot do it. */
export function WrenchList({ wrenches, value, onChange }: Props) {
  return (
    <fieldset>
      <legend className="mb-2 text-lg font-bold">Wrench</legend>
      <ul className="flex flex-col gap-2">
        {wrenches.map(({ wrench, settings, refused }) => (
          <li key={wrench.id}>
            <button
              type="button"
              disabled={refused !== ""}
              aria-pressed={value === wrench.id}
              className={`rounded-field flex min-h-14 w-full flex-wrap items-baseline gap-x-4 border-2 px-4 py-2 text-left disabled:border-dashed ${value === wrench.id ? "border-primary bg-primary text-primary-content" : "border-base-content/40"}`}
              onClick={() => onChange(wrench.id)}
            >
              <b className="text-lg">{wrench.name}</b>
              <span>
                {wrench.lowest}–{wrench.highest} {wrench.unit}
              </span>
              {refused ? (
                <span className="w-full">{refused}</span>
              ) : (
                <span className="ml-auto">
                  set to {settings.map((shown) => shown.figure).join(", then ")} {wrench.unit}
                </span>
              )}
            </button>
          </li>
        ))}
      </ul>
      {wrenches.every((one) => one.refused) && <p className="mt-2">No wrench in the crib can do this joint.</p>}
      <Link className="btn btn-ghost mt-2" to="/add/wrench">
        Add a wrench
      </Link>
    </fieldset>
  );
}
