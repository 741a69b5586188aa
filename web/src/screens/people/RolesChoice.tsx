import type { Schemas } from "../../api/client";
import { newPersonRolesValues } from "../../api/values";

export type Roles = Schemas["NewPerson"]["roles"];

/** What somebody may be; several at once. */
export function RolesChoice({ roles, onChange }: { roles: Roles; onChange: (roles: Roles) => void }) {
  return (
    <fieldset>
      <legend className="mb-2 font-bold">Roles</legend>
      <div className="flex flex-wrap gap-2">
        {newPersonRolesValues.map((role) => {
          const held = roles.includes(role);
          return (
            <button
              key={role}
              type="button"
              className={`btn ${held ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
              aria-pressed={held}
              onClick={() => onChange(held ? roles.filter((each) => each !== role) : [...roles, role])}
            >
              {role}
            </button>
          );
        })}
      </div>
    </fieldset>
  );
}
