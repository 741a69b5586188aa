import { type ReactNode, useState } from "react";
import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { touched } from "../../../api/queries";
import { useAway } from "../../../core/useUnsent";
import { Keypad } from "../../../parts/Keypad";
import { ReasonForm } from "../../../parts/ReasonForm";
import { Trouble } from "../../../parts/Trouble";
import { useMe } from "../../../parts/useMe";
import type { Recorder } from "./recorder";

const OWED = "border-warning flex flex-wrap items-center gap-3 border-l-8 p-2 pl-4";
type People = readonly Schemas["Person"][];
type Props = { run: string; now: Schemas["Now"]; people: People; recorder: Recorder };

/** What keeps the run from good and only a person can settle: a PIN that is owed, a flag that a lead decides about. */
export function Owed({ run, now, people, recorder }: Props) {
  const me = useMe();
  const away = useAway();
  const owing = people.filter((person) => now.unproven.includes(person.id));
  const [flag] = now.to_settle;
  const [notice] = now.to_read;
  const [odd] = now.to_look_at;
  return (
    <>
      {!away && !me.unproven && owing.map((person) => <OwedPin key={person.id} run={run} now={now} person={person} />)}
      {notice && (
        <Said label="notice" line={notice}>
          <button
            type="button"
            className="btn"
            onClick={() =>
              recorder.record({
                kind: "clarified",
                about: notice.about ?? null,
                option: "seen",
                claimed_seq: now.seq + 1,
              })
            }
          >
            I have read it
          </button>
        </Said>
      )}
      {odd && (
        <Said label="odd end" line={odd}>
          <ReasonForm
            label="what was found"
            action="I have looked"
            onGive={(text) =>
              recorder.record({
                kind: "clarified",
                about: odd.about ?? null,
                option: "looked",
                text,
                claimed_seq: now.seq + 1,
              })
            }
          />
        </Said>
      )}
      {flag && (
        <Said label="flagged" line={flag}>
          {me.rights.includes("decide") && !me.unproven && (
            <ReasonForm
              label="what is decided, and why"
              action="Decide it, as lead"
              onGive={(text) =>
                recorder.record({ kind: "deviated", about: flag.about ?? null, text, claimed_seq: now.seq + 1 })
              }
            />
          )}
        </Said>
      )}
    </>
  );
}

type SaidProps = { label: string; line: Schemas["VerdictLine"]; children: ReactNode };

/** What the server said of an entry, what to do, and who may answer it. */
function Said({ label, line, children }: SaidProps) {
  return (
    <section role="alert" aria-label={label} className={OWED}>
      <p className="flex-1 text-lg">
        <b>{line.words}.</b> {line.remedy}
      </p>
      {children}
    </section>
  );
}

type OfOne = { run: string; now: Schemas["Now"]; person: Schemas["Person"] };

function OwedPin({ run, now, person }: OfOne) {
  const [typing, setTyping] = useState(false);
  const [pin, setPin] = useState("");
  const vouch = useCommand({
    body: (pressed) => ({ ...pressed, person: person.id, pin, seq: now.seq }),
    to: address("/api/runs/{run_id}/vouch", { path: { run_id: run } }),
    secret: true,
    changes: touched.run(run),
    done: () => setTyping(false),
    refused: () => setPin(""),
  });
  return (
    <section aria-label="not proven" className={OWED}>
      <p className="flex-1 text-lg">
        <b>Recorded as {person.name} without a PIN.</b> It keeps the run from good until {person.name} confirms it.
      </p>
      {!typing && (
        <button type="button" className="btn" onClick={() => setTyping(true)}>
          I am {person.name}
        </button>
      )}
      {typing && (
        <form
          className="flex flex-col gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            vouch.press(undefined);
          }}
        >
          <Keypad label="PIN" hidden ready value={pin} onChange={setPin} />
          <button type="submit" className="btn btn-primary" disabled={pin.length < 4 || vouch.isPending}>
            It was me
          </button>
        </form>
      )}
      <Trouble error={vouch.error} />
    </section>
  );
}
