import type { Schemas } from "../../../api/client";

type Props = {
  label: string;
  people: readonly Schemas["Person"][];
  value: string;
  beside?: boolean;
  onChange: (id: string) => void;
};

/** One of the people of the shop; the label above, or beside where a line is all there is. */
export function WhoSelect({ label, people, value, beside = false, onChange }: Props) {
  return (
    <label className={beside ? "flex items-center gap-2" : "flex flex-col"}>
      <span className={`text-sm ${beside ? "max-sm:hidden" : ""}`}>{label}</span>
      <select
        aria-label={label}
        className={`select bg-base-100 ${beside ? "w-44 max-sm:w-28" : ""}`}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        {people.map((person) => (
          <option key={person.id} value={person.id}>
            {person.name}
          </option>
        ))}
      </select>
    </label>
  );
}
