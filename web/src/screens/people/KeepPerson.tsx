import { useState } from "react";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { Field } from "../../parts/Field";
import { Sure } from "../../parts/Sure";
import { Trouble } from "../../parts/Trouble";
import { type Roles, RolesChoice } from "./RolesChoice";
import { Unlock } from "./Unlock";

/** What a keeper may do about somebody: a PIN for one sign-in, their roles, that they have left. */
export function KeepPerson({ person, done }: { person: Schemas["Person"]; done: () => void }) {
  const [pin, setPin] = useState("");
  const [roles, setRoles] = useState<Roles>([...person.roles]);
  const params = { path: { person_id: person.id } };
  const reset = useCommand({
    body: ({ id }) => ({ id, pin }),
    to: address("/api/people/{person_id}/pin", params),
    changes: touched.people,
    secret: true,
    done,
  });
  const give = useCommand({
    body: ({ id }) => ({ id, roles }),
    to: address("/api/people/{person_id}/roles", params),
    changes: touched.people,
    done,
  });
  const leave = useCommand({
    body: ({ id }) => ({ id }),
    to: address("/api/people/{person_id}/leave", params),
    changes: touched.people,
  });
  const same = [...roles].sort().join() === [...person.roles].sort().join();
  return (
    <div className="flex flex-col gap-3 pl-4">
      <div className="flex flex-wrap items-end gap-3">
        <Field
          label={`PIN for ${person.name}'s next sign-in`}
          type="password"
          inputMode="numeric"
          autoComplete="off"
          value={pin}
          onChange={(event) => setPin(event.target.value)}
        />
        <button type="button" className="btn" disabled={pin.length < 4} onClick={() => reset.press(undefined)}>
          Reset it
        </button>
        <Unlock person={person} />
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <RolesChoice roles={roles} onChange={setRoles} />
        <button
          type="button"
          className="btn"
          disabled={same || roles.length === 0}
          onClick={() => give.press(undefined)}
        >
          Keep these roles
        </button>
      </div>
      <Sure
        say={`${person.name} has left`}
        ask={`${person.name} can then no longer sign in. Has left?`}
        onSure={() => leave.press(undefined)}
      />
      <Trouble error={reset.error ?? give.error ?? leave.error} />
    </div>
  );
}
