import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { readingQuery } from "../../api/queries";
import { Field } from "../../parts/Field";
import { ScalePicture } from "../../parts/ScalePicture";
import { Trouble } from "../../parts/Trouble";

/** How to set the chosen wrench, stage by stage; and the other way round, what it is set to by what one sees. */
export function SetTheWrench({ choice }: { choice: Schemas["Choice"] }) {
  const { wrench, scales } = choice;
  const [stage, setStage] = useState(0);
  const scale = scales[Math.min(stage, scales.length - 1)];
  if (!scale) return null;
  return (
    <section aria-label="set the wrench" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">Set {wrench.name}</h2>
      {scales.length > 1 && (
        <p className="flex flex-wrap gap-2">
          {scales.map((one, place) => (
            <button
              key={one.figure}
              type="button"
              aria-pressed={one === scale}
              className={`btn ${one === scale ? "btn-primary" : ""}`}
              onClick={() => setStage(place)}
            >
              {one.figure} {one.unit}
            </button>
          ))}
        </p>
      )}
      <ScalePicture key={`${wrench.id}${scale.figure}`} scale={scale} construction={wrench.construction} />
      <p className="text-2xl font-bold">{scale.words}</p>
      {wrench.body_graduation && <ReadBack wrench={wrench} />}
    </section>
  );
}

function ReadBack({ wrench }: { wrench: Schemas["Wrench"] }) {
  const [line, setLine] = useState("");
  const [thimble, setThimble] = useState("");
  const { data: set, error } = useQuery({
    ...readingQuery(wrench.id, line, thimble),
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
