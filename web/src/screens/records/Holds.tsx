import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { holdsQuery } from "../../api/queries";
import { day, inOneLine } from "../../parts/format";
import { ReasonForm } from "../../parts/ReasonForm";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";

type Props = { machine: string; since: string; until: string };

/** What a lead keeps from being erased: the machine and the period that are looked for here. */
export function Holds({ machine, since, until }: Props) {
  const { data: holds, error } = useQuery(holdsQuery);
  const me = useMe();
  const [asking, setAsking] = useState<string | null>(null);
  const may = me.rights.includes("hold");
  const hold = useCommand({
    body: (pressed, text: string) => ({
      id: pressed.id,
      text,
      ...(machine ? { machine } : {}),
      ...(since ? { since } : {}),
      ...(until ? { until } : {}),
    }),
    to: address("/api/holds", {}),
    changes: [["holds"]],
  });
  const lift = useCommand({
    body: (pressed, said: { hold: string; text: string }) => ({ id: pressed.id, text: said.text }),
    to: (said) => address("/api/holds/{hold_id}/lift", { path: { hold_id: said.hold } }),
    changes: [["holds"]],
  });
  if (!holds) return <Trouble error={error} />;
  const named = machine || since || until;
  return (
    <section aria-label="holds" className="flex flex-col gap-2">
      <h2 className="text-lg font-bold">Kept from erasure</h2>
      {holds.length === 0 && <p>Nothing is held.</p>}
      {holds.map((each) => (
        <div key={each.hold.id} className="border-primary border-l-4 pl-3">
          <p>
            <b>{inOneLine(each.fleet_number, period(each.hold.since, each.hold.until))}</b>
            <span className="block">{each.hold.reason}</span>
            <span className="text-base-content/80 block text-sm">{inOneLine(each.by, day(each.hold.at))}</span>
          </p>
          {may &&
            (asking === each.hold.id ? (
              <ReasonForm
                label="Why it is not needed any more"
                action="Lift the hold"
                onGive={(text) => {
                  lift.press({ hold: each.hold.id, text });
                  setAsking(null);
                }}
              />
            ) : (
              <button type="button" className="btn btn-ghost" onClick={() => setAsking(each.hold.id)}>
                Lift it
              </button>
            ))}
        </div>
      ))}
      {may && asking === "new" && (
        <ReasonForm
          label="Why it is kept"
          action="Hold"
          onGive={(text) => {
            hold.press(text);
            setAsking(null);
          }}
        />
      )}
      {may && asking !== "new" && (
        <button type="button" className="btn" disabled={!named} onClick={() => setAsking("new")}>
          {named ? "Hold what is looked for" : "To hold: pick a machine or a period"}
        </button>
      )}
      <Trouble error={hold.error ?? lift.error} />
    </section>
  );
}

const period = (since: string | null, until: string | null) => {
  const last = until ? day(new Date(Date.parse(until) - 1).toISOString()) : "";
  if (!since && !until) return "always";
  return since ? `${day(since)} to ${last || "today and on"}` : `until ${last}`;
};
