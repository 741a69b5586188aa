import { useEffect, useRef, useState } from "react";
import { address } from "../../api/addresses";
import { Problem, type Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { BASES, type Basis } from "../../parts/bases";
import { Choice } from "../../parts/Choice";
import { Trouble } from "../../parts/Trouble";

/** The machine's meters and a line to write the newest reading down. */
export function MeterEntry({ now }: { now: Schemas["MachineNow"] }) {
  const { machine } = now;
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [basis, setBasis] = useState<Basis>("reading");
  const params = { path: { machine_id: machine.id } };
  const read = useCommand({
    body: ({ id }, kind: Schemas["Meter"]["kind"]) => ({
      id,
      kind,
      figure: Number(typed[kind]),
      basis: asks ? basis : "reading",
      affirmed: asks ? ["meter"] : [],
    }),
    to: address("/api/machines/{machine_id}/meters", params),
    changes: touched.machines,
    done: () => {
      setTyped({});
      setBasis("reading");
    },
  });
  const below = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (read.error) below.current?.scrollIntoView({ block: "center" }); // else the dock may hide it
  }, [read.error]);
  const asks: boolean = read.error instanceof Problem && read.error.ask === "meter";
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
      <div className="flex flex-col gap-3" ref={below}>
        <Trouble error={read.error} />
        {asks && <Choice label="Why is it so?" options={BASES} value={basis} onChange={setBasis} />}
      </div>
    </section>
  );
}
