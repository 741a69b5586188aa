import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { estimateChoicesQuery, estimateQuery } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { figure, limits } from "../../parts/format";

type Props = { thread: string; propertyClass: string };

/** What thread, class and friction would give: set apart, broken outline, never in the place of a spec. */
export function EstimatePanel({ thread, propertyClass }: Props) {
  const { data: choices } = useQuery(estimateChoicesQuery);
  const [condition, setCondition] = useState("zinc");
  const ready = thread.trim().length > 1 && propertyClass !== "";
  const { data: made, error } = useQuery({ ...estimateQuery(thread.trim(), propertyClass, condition), enabled: ready });
  return (
    <aside
      aria-label="estimate"
      className="border-base-content/60 rounded-box flex flex-col gap-2 border-2 border-dashed p-4"
    >
      <p className="font-bold">An estimate, not a spec: no run can start from it</p>
      {!ready && <p>Type the thread and choose the class that is marked on the head.</p>}
      {ready && choices && (
        <Choice
          label="Condition"
          options={choices.conditions.map((value) => ({ value, say: value }))}
          value={condition}
          onChange={setCondition}
        />
      )}
      {ready && error && <p>{error.message}</p>}
      {ready && made && (
        <>
          <ul>
            {made.shown.map((shown) => (
              <li key={shown.unit}>
                {figure(shown)} <span className="text-sm">somewhere in {limits(shown)}</span>
              </li>
            ))}
          </ul>
          <p className="text-sm">
            {made.words}. {made.stress_area_mm2.toFixed(1)} mm². Sources: {made.sources.join("; ")}.
          </p>
        </>
      )}
    </aside>
  );
}
