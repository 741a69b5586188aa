import type { Schemas } from "../../../api/client";
import { Choice } from "../../../parts/Choice";

type Props = {
  positions: Schemas["Positions"];
  value: Schemas["Position"];
  onChange: (value: Schemas["Position"]) => void;
};

const keys = <T extends string>(values: readonly T[]) => values.map((value) => ({ value, say: value }));

/** Where on the machine: only the parts that this joint has. */
export function PositionChoice({ positions, value, onChange }: Props) {
  return (
    <section aria-label="position" className="flex flex-wrap gap-x-8 gap-y-4">
      {positions.axles.length > 0 && (
        <Choice
          label="Axle"
          options={keys(positions.axles)}
          value={value.axle || null}
          onChange={(axle) => onChange({ ...value, axle })}
        />
      )}
      {positions.sides.length > 0 && (
        <Choice
          label="Side"
          options={keys(positions.sides)}
          value={value.side ?? null}
          onChange={(side) => onChange({ ...value, side })}
        />
      )}
      {positions.places.length > 0 && (
        <Choice
          label="Place"
          options={keys(positions.places)}
          value={value.place || null}
          onChange={(place) => onChange({ ...value, place })}
        />
      )}
    </section>
  );
}
