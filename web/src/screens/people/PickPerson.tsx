import type { Schemas } from "../../api/client";

type Person = Schemas["Person"];
type Props = { title: string; people: readonly Person[]; chosen: Person | null; onChoose: (person: Person) => void };

/** The names at the door. */
export function PickPerson({ title, people, chosen, onChoose }: Props) {
  return (
    <section aria-label="people">
      <h2 className="mb-2 text-lg font-bold">{title}</h2>
      <ul className="flex flex-col gap-2">
        {people.map((each) => (
          <li key={each.id}>
            <button
              type="button"
              className={`btn w-full justify-between text-xl ${chosen?.id === each.id ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
              aria-pressed={chosen?.id === each.id}
              onClick={() => onChoose(each)}
            >
              {each.name}
              <span className="text-sm">{each.roles.join(", ")}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
