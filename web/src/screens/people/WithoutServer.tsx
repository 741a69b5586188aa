import { useState } from "react";
import type { Schemas } from "../../api/client";
import { type Me, pickName } from "../../core/me";
import { useCore } from "../../core/useHeld";

type Props = { person: Schemas["Person"]; onPicked: (me: Me) => void };

/** A name without its PIN, while the server is away: nothing on a tablet can prove it. */
export function WithoutServer({ person, onPicked }: Props) {
  const ready = useCore();
  const [unknown, setUnknown] = useState(false);
  const pick = async () => {
    const me = await pickName(person);
    if (me) onPicked(me);
    else setUnknown(true);
  };
  return (
    <section aria-label="without the server" className="flex flex-col gap-3 text-lg">
      <p className="border-warning border-l-8 pl-4">
        <b>The server is away, so no PIN can be checked.</b> What you record is kept under your name as not proven. No
        run ends good with it until you confirm it with your PIN.
      </p>
      <button type="button" className="btn btn-primary max-w-sm text-xl" disabled={!ready} onClick={pick}>
        Work as {person.name}, not proven
      </button>
      {!ready && <p aria-busy="true">One moment …</p>}
      {unknown && <p>Nobody has signed in on this tablet before. Go where the server answers, once.</p>}
    </section>
  );
}
