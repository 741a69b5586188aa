import { useNavigate } from "react-router";
import { address } from "../../api/addresses";
import { Problem, type Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { newMachineMetersValues } from "../../api/values";
import { AskAgain } from "../../parts/AskAgain";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { useFields } from "../../parts/useFields";

/** A machine that is not there yet: two fields, and its meters if it has any. */
export function AddMachine() {
  const navigate = useNavigate();
  const { form, refused } = useFields({
    fleet_number: "",
    maker_model: "",
    meters: [] as Schemas["Meter"]["kind"][],
    registration: "",
    vin: "",
    serial: "",
    year: "",
  });
  const meters = form.watch("meters");
  const add = useCommand({
    body: ({ id }, affirmed: string[]) => {
      const { year, ...typed } = form.getValues();
      return { id, ...typed, year: year ? Number(year) : null, affirmed };
    },
    to: address("/api/machines"),
    changes: touched.machines,
    done: (machine) => {
      navigate(`/?machine=${machine.id}`, { replace: true });
    },
    refused,
  });
  const asks = add.error instanceof Problem && add.error.ask === "vin" ? add.error : null;
  return (
    <FormFrame
      title="Add a machine"
      action="Add it"
      form={form}
      pending={add.isPending}
      error={asks ? null : add.error}
      onSubmit={() => add.press([])}
    >
      <Line name="fleet_number" label="Fleet number" required />
      <Line name="maker_model" label="Maker and model" hint="as the specs name it: Fennick Causeway 12" required />
      <fieldset className="flex flex-wrap gap-2">
        <legend className="font-bold">Meters, if it has any</legend>
        {newMachineMetersValues.map((kind) => (
          <button
            key={kind}
            type="button"
            aria-pressed={meters.includes(kind)}
            className={`btn ${meters.includes(kind) ? "btn-primary" : ""}`}
            onClick={() =>
              form.setValue(
                "meters",
                meters.includes(kind) ? meters.filter((meter) => meter !== kind) : [...meters, kind],
              )
            }
          >
            {kind}
          </button>
        ))}
      </fieldset>
      <Line name="registration" label="Registration" />
      <Line name="vin" label="VIN" hint="17 characters, from the plate" />
      <Line name="serial" label="Serial number" />
      <Line name="year" label="Model year" inputMode="numeric" />
      {asks && <AskAgain asked={asks} yes="It is another machine: add it" onYes={() => add.press(["vin"])} />}
    </FormFrame>
  );
}
