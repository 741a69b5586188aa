import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { readingQuery } from "../../../api/queries";
import { Field } from "../../../parts/Field";
import { ScalePicture } from "../../../parts/ScalePicture";
import { Trouble } from "../../../parts/Trouble";

/** How to set the chosen wrench, stage by stage; and the other way round, what it is set to by what one sees. */
export function SetTheWrench({ choice }: { choice: Schemas["Choice"] }) {
  const { wrench } = choice;
  const stages = choice.stages.filter((stage, n) => stage.setting?.figure !== choice.stages[n - 1]?.setting?.figure);
  const [chosen, setChosen] = useState(0);
  const stage = stages[Math.min(chosen, stages.length - 1)];
  if (!stage) return null;
  return (
    <section aria-label="set the wrench" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">Set {wrench.name}</h2>
      {stages.length > 1 && (
        <p className="flex flex-wrap gap-2">
          {stages.map((each, place) => (
            <button
              key={`${each.step}${each.labels[0]}`}
              type="button"
              aria-pressed={each === stage}
              className={`btn h-auto flex-col gap-0 py-1 ${each === stage ? "btn-primary" : ""}`}
              onClick={() => setChosen(place)}
            >
              <b>
                {each.setting
                  ? `${each.setting.figure} ${each.setting.unit}`
                  : `${each.angle?.low}–${each.angle?.high}°`}
              </b>
              <span className="text-sm font-normal">{each.words}</span>
            </button>
          ))}
        </p>
      )}
      {stage.scale && (
        <>
          <ScalePicture
            key={`${wrench.id}${wrench.unit}${stage.scale.figure}`}
            scale={stage.scale}
            construction={wrench.construction}
            face={wrench.face}
          />
          <p className="text-2xl font-bold">{stage.scale.words}</p>
          {stage.off && stage.exact && (
            <p className="text-base-content/80">
              The sum comes to {stage.exact.figure} {stage.exact.unit}; the nearest mark inside the band is {stage.off}.
            </p>
          )}
          <ol className="list-decimal pl-6">
            {stage.scale.steps.map((step) => (
              <li key={step}>{step}</li>
            ))}
          </ol>
        </>
      )}
      {stage.windup_deg >= 0.5 && (
        <p className="border-primary border-l-8 pl-3 text-lg">
          The extension winds up: the handle goes {stage.windup_deg.toFixed(1)}° that the fastener does not. It matters
          for an angle, not for the torque.
        </p>
      )}
      {wrench.body_graduation && <ReadBack wrench={wrench} />}
    </section>
  );
}

function ReadBack({ wrench }: { wrench: Schemas["Wrench"] }) {
  const [line, setLine] = useState("");
  const [thimble, setThimble] = useState("");
  const { data: set, error } = useQuery({
    ...readingQuery(wrench.id, wrench.unit, line, thimble),
    enabled: line !== "" && Number.isFinite(Number(line)) && Number.isFinite(Number(thimble)),
  });
  return (
    <details>
      <summary className="min-h-14 cursor-pointer py-4">Set already? Say what you see.</summary>
      <div className="flex flex-wrap gap-4">
        <Field label="Last line" inputMode="decimal" value={line} onChange={(e) => setLine(e.target.value)} />
        <Field label="Thimble" inputMode="decimal" value={thimble} onChange={(e) => setThimble(e.target.value)} />
      </div>
      {error ? (
        <Trouble error={error} />
      ) : (
        set &&
        line !== "" && (
          <p className="py-2 text-xl" aria-live="polite">
            It is set to{" "}
            <b>
              {set.figure} {set.unit}
            </b>
            .
          </p>
        )
      )}
    </details>
  );
}
