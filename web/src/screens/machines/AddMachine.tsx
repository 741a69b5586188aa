import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, Problem, type Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { Field } from "../../parts/Field";
import { FormFrame } from "../../parts/FormFrame";

const METERS: readonly Schemas["Meter"]["kind"][] = ["km", "miles", "hours"];

/** A machine that is not there yet: two fields, and its meters if it has any. */
export function AddMachine() {
  const navigate = useNavigate();
  const [fleetNumber, setFleetNumber] = useState("");
  const [makerModel, setMakerModel] = useState("");
  const [meters, setMeters] = useState<Schemas["Meter"]["kind"][]>([]);
  const [plate, setPlate] = useState({ registration: "", vin: "", serial: "", year: "" });
  const line = (name: keyof typeof plate) => ({
    value: plate[name],
    onChange: (event: React.ChangeEvent<HTMLInputElement>) => setPlate({ ...plate, [name]: event.target.value }),
  });
  const add = useCommand({
    body: ({ id }, affirmed: string[]) => ({
      id,
      fleet_number: fleetNumber,
      maker_model: makerModel,
      meters,
      ...plate,
      year: plate.year ? Number(plate.year) : null,
      affirmed,
    }),
    send: (body) => ask(api.POST("/api/machines", { body })),
    done: (machine) => {
      navigate(`/?machine=${machine.id}`, { replace: true });
    },
  });
  const asks = add.error instanceof Problem && add.error.ask === "vin" ? add.error : null;
  return (
    <FormFrame
      title="Add a machine"
      action="Add it"
      pending={add.isPending}
      error={asks ? null : add.error}
      onSubmit={() => add.press([])}
    >
      <Field label="Fleet number" required value={fleetNumber} onChange={(e) => setFleetNumber(e.target.value)} />
      <Field
        label="Maker and model"
        hint="as the specs name it: Fennick Causeway 12"
        required
        value={makerModel}
        onChange={(e) => setMakerModel(e.target.value)}
      />
      <fieldset className="flex flex-wrap gap-2">
        <legend className="font-bold">Meters, if it has any</legend>
        {METERS.map((kind) => (
          <button
            key={kind}
            type="button"
            aria-pressed={meters.includes(kind)}
            className={`btn ${meters.includes(kind) ? "btn-primary" : ""}`}
            onClick={() =>
              setMeters(meters.includes(kind) ? meters.filter((meter) => meter !== kind) : [...meters, kind])
            }
          >
            {kind}
          </button>
        ))}
      </fieldset>
      <Field label="Registration" {...line("registration")} />
      <Field label="VIN" hint="17 characters, from the plate" {...line("vin")} />
      <Field label="Serial number" {...line("serial")} />
      <Field label="Model year" inputMode="numeric" {...line("year")} />
      {asks && (
        <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4 text-lg">
          <p>
            <b>{asks.fault}</b> {asks.remedy}
          </p>
          <button type="button" className="btn" onClick={() => add.press(["vin"])}>
            It is another machine: add it
          </button>
        </div>
      )}
    </FormFrame>
  );
}
