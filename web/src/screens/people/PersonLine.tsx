import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useMe } from "../../parts/useMe";
import { KeepPerson } from "./KeepPerson";
import { Unlock } from "./Unlock";

/** Somebody on the list; what a keeper or a lead may do about them opens below. */
export function PersonLine({ person }: { person: Schemas["Person"] }) {
  const me = useMe();
  const [open, setOpen] = useState(false);
  const may = me.rights.includes("people");
  return (
    <li className="border-base-300 flex flex-col gap-2 border-b py-2">
      <span className="flex flex-wrap items-center justify-between gap-3">
        <span>
          {person.name} <span className="text-base-content/80 text-sm">{person.roles.join(", ")}</span>
        </span>
        {may && (
          <button type="button" className="btn" aria-expanded={open} onClick={() => setOpen(!open)}>
            PIN, roles, leaving<span className="sr-only"> of {person.name}</span>
          </button>
        )}
        {!may && me.rights.includes("unlock") && <Unlock person={person} />}
      </span>
      {open && <KeepPerson person={person} done={() => setOpen(false)} />}
    </li>
  );
}
