import { useState } from "react";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { Trouble } from "../../parts/Trouble";

/** Lifts the wait after wrong PINs. */
export function Unlock({ person }: { person: Schemas["Person"] }) {
  const [lifted, setLifted] = useState(false);
  const unlock = useCommand({
    body: ({ id }) => ({ id }),
    to: address("/api/people/{person_id}/unlock", { path: { person_id: person.id } }),
    changes: touched.people,
    done: () => setLifted(true),
  });
  return (
    <>
      <button type="button" className="btn" disabled={unlock.isPending} onClick={() => unlock.press(undefined)}>
        {lifted ? "May try again" : "Let them try their PIN again"}
        <span className="sr-only">: {person.name}</span>
      </button>
      <Trouble error={unlock.error} />
    </>
  );
}
