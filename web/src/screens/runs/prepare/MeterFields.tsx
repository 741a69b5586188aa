import type { Schemas } from "../../../api/client";
import { BASES, type Basis } from "../../../parts/bases";
import { Choice } from "../../../parts/Choice";

export type Readings = Partial<Record<Schemas["Meter"]["kind"], { figure: string; basis: Basis }>>;

type Props = {
  machine: Schemas["MachineNow"];
  readings: Readings;
  onChange: (readings: Readings) => void;
  asks: boolean;
};

/** The meters that the machine has; may be left empty. After an odd reading: why it is so. */
export function MeterFields({ machine, readings, onChange, asks }: Props) {
  if (machine.machine.meters.length === 0) return <p>No meter on this machine; the re-torque goes by date.</p>;
  return (
    <section aria-label="meter" className="flex flex-wrap gap-x-8 gap-y-4">
      {machine.machine.meters.map((kind) => {
        const reading = readings[kind] ?? { figure: "", basis: "reading" };
        const last = machine.meters.find((meter) => meter.kind === kind)?.figure;
        const change = (part: Partial<typeof reading>) => onChange({ ...readings, [kind]: { ...reading, ...part } });
        return (
          <div key={kind} className="flex flex-col gap-3">
            <label className="flex flex-col gap-2">
              <span className="text-lg font-bold">
                Meter, {kind} <span className="font-normal">{last === undefined ? "never read" : `last ${last}`}</span>
              </span>
              <input
                className="input bg-base-100 w-56 text-xl"
                inputMode="decimal"
                value={reading.figure}
                onChange={(event) => change({ figure: event.target.value.replace(/[^0-9.]/g, "") })}
              />
            </label>
            {asks && (
              <Choice
                label="Why lower?"
                options={BASES}
                value={reading.basis}
                onChange={(basis) => change({ basis })}
              />
            )}
          </div>
        );
      })}
    </section>
  );
}
