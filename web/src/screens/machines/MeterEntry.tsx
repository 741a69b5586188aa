import { useState } from "react";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { Trouble } from "../../parts/Trouble";

/** The machine's meters and a line to write the newest reading down. */
export function MeterEntry({ now }: { now: Schemas["MachineNow"] }) {
  const { machine } = now;
  const [typed, setTyped] = useState<Record<string, string>>({});
  const params = { path: { machine_id: machine.id } };
  const read = useCommand({
    body: ({ id }, kind: Schemas["Meter"]["kind"]) => ({
      id,
      kind,
      figure: Number(typed[kind]),
      basis: "reading" as const,
    }),
    to: address("/api/machines/{machine_id}/meters", params),
    changes: touched.machines,
    done: () => setTyped({}),
  });
  if (machine.meters.length === 0) return <p>This machine has no meter; what is due goes by date.</p>;
  return (
    <section aria-label="meters" className="flex flex-wrap items-end gap-4">
      {machine.meters.map((kind) => (
        <form
          key={kind}
          className="flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            read.press(kind);
          }}
        >
          <label className="flex flex-col">
            <span>
              {kind}, last {now.meters.find((meter) => meter.kind === kind)?.figure ?? "never read"}
            </span>
            <input
              className="input bg-base-100 w-40"
              inputMode="decimal"
              value={typed[kind] ?? ""}
              onChange={(event) => setTyped({ ...typed, [kind]: event.target.value })}
            />
          </label>
          <button type="submit" className="btn" disabled={!typed[kind] || Number.isNaN(Number(typed[kind]))}>
            Write down
          </button>
        </form>
      ))}
      <Trouble error={read.error} />
    </section>
  );
}
