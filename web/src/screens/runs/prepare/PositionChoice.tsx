import type { Schemas } from "../../../api/client";

type Place = Schemas["PlaceLine"];
type Props = {
  places: readonly Place[];
  chosen: readonly string[];
  single: boolean;
  onChange: (keys: string[]) => void;
};

/** Where on the machine: one place or several, which are then one job; each is a tap, all of them too. */
export function PositionChoice({ places, chosen, single, onChange }: Props) {
  if (places.length < 2) return null;
  const toggle = (key: string) => {
    if (single) onChange([key]);
    else onChange(places.map((place) => place.key).filter((each) => (each === key) !== chosen.includes(each)));
  };
  const all = chosen.length === places.length;
  return (
    <fieldset>
      <legend className="mb-2 text-lg font-bold">
        Where? {!single && <span className="font-normal">one or several</span>}
      </legend>
      <div className="flex flex-wrap gap-2">
        {places.map((place) => (
          <button
            key={place.key}
            type="button"
            aria-pressed={chosen.includes(place.key)}
            className={`btn h-auto py-2 ${chosen.includes(place.key) ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
            onClick={() => toggle(place.key)}
          >
            {place.words}
          </button>
        ))}
        {!single && (
          <button
            type="button"
            aria-pressed={all}
            className="btn btn-ghost h-auto py-2"
            onClick={() => onChange(all ? [] : places.map((place) => place.key))}
          >
            All {places.length}
          </button>
        )}
      </div>
    </fieldset>
  );
}
