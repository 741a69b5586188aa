import { useState } from "react";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { Field } from "../../parts/Field";
import { Trouble } from "../../parts/Trouble";

/** Somebody on the list; a lead resets their PIN, or says that they have left. */
export function PersonLine({ person }: { person: Schemas["Person"] }) {
  const [open, setOpen] = useState(false);
  const [pin, setPin] = useState("");
  const params = { path: { person_id: person.id } };
  const close = () => {
    setOpen(false);
    setPin("");
  };
  const reset = useCommand({
    body: ({ id }) => ({ id, pin }),
    to: address("/api/people/{person_id}/pin", params),
    changes: touched.people,
    secret: true,
    done: close,
  });
  const leave = useCommand({
    body: ({ id }) => ({ id }),
    to: address("/api/people/{person_id}/leave", params),
    changes: touched.people,
  });
  return (
    <li className="border-base-300 flex flex-col gap-2 border-b py-2">
      <span className="flex flex-wrap items-center justify-between gap-3">
        <span>
          {person.name} <span className="text-base-content/80 text-sm">{person.role}</span>
        </span>
        <button type="button" className="btn" aria-expanded={open} onClick={() => (open ? close() : setOpen(true))}>
          PIN, leaving<span className="sr-only"> of {person.name}</span>
        </button>
      </span>
      {open && (
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
          <button type="button" className="btn" onClick={() => leave.press(undefined)}>
            {person.name} has left
          </button>
        </div>
      )}
      <Trouble error={reset.error ?? leave.error} />
    </li>
  );
}
