import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { ReasonForm } from "../../../parts/ReasonForm";
import { useMe } from "../../../parts/useMe";

type Choice = Schemas["Choice"];
type Props = {
  choices: readonly Choice[];
  value: string | null;
  unit: string | null;
  onChange: (choice: Choice, override?: string) => void;
};

/** The short list: what each wrench will be set to, stage by stage, and what speaks for it and against it. */
export function WrenchList({ choices, value, unit, onChange }: Props) {
  const able = choices.filter((each) => !each.refused);
  return (
    <fieldset>
      <legend className="mb-2 text-lg font-bold">Wrench</legend>
      <ul className="flex flex-col gap-2">
        {able.map((choice) => {
          const { wrench, stages, for_it, against } = choice;
          const on = value === wrench.id && (unit === null || unit === wrench.unit);
          const figures = stages.map((stage) => stage.setting?.figure ?? (stage.angle && limitsOf(stage.angle)));
          return (
            <li key={`${wrench.id}${wrench.unit}`}>
              <button
                type="button"
                aria-pressed={on}
                className={`rounded-field flex min-h-14 w-full flex-wrap items-baseline gap-x-4 border-2 px-4 py-2 text-left ${on ? "border-primary bg-primary text-primary-content" : "border-base-content/40"}`}
                onClick={() => onChange(choice)}
              >
                <Named wrench={wrench} />
                <span className="ml-auto">
                  set to {figures.filter((figure, n) => n === 0 || figure !== figures[n - 1]).join(", then ")}{" "}
                  {wrench.unit}
                </span>
                <span className="w-full text-sm">
                  {[...for_it, ...against.map((reason) => `but ${reason}`)].join("; ")}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      {able.length === 0 && <p className="mt-2">No wrench in the crib does all of it as it is.</p>}
    </fieldset>
  );
}

function limitsOf(shown: Schemas["Shown"]): string {
  return `${shown.low}–${shown.high}${shown.unit}`;
}

/** Those that cannot do it, each with its reason; some of them a lead may use all the same. */
export function RefusedWrenches({ choices, onChange }: Pick<Props, "choices" | "onChange">) {
  const me = useMe();
  const [asking, setAsking] = useState<Choice | null>(null);
  return (
    <section aria-label="wrenches that cannot do it" className="flex flex-col gap-2">
      {choices
        .filter((each) => each.refused)
        .map((choice) => {
          const may = choice.may_override && me.rights.includes("decide");
          return (
            <div key={`${choice.wrench.id}${choice.wrench.unit}`}>
              <button
                type="button"
                disabled={!may}
                className="rounded-field border-base-content/40 flex min-h-14 w-full flex-wrap items-baseline gap-x-4 border-2 border-dashed px-4 py-2 text-left"
                onClick={() => setAsking(choice)}
              >
                <Named wrench={choice.wrench} />
                <span className="w-full">
                  {choice.refused}
                  {choice.may_override && (may ? " You may use it with a reason." : " A lead may, with a reason.")}
                </span>
              </button>
              {asking === choice && (
                <ReasonForm
                  label="Why may it be used all the same?"
                  action="Use it"
                  onGive={(reason) => {
                    onChange(choice, reason);
                    setAsking(null);
                  }}
                />
              )}
            </div>
          );
        })}
      <Link className="btn btn-ghost self-start" to="/add/tool?kind=wrench">
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
