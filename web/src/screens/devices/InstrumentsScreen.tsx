import { useQuery } from "@tanstack/react-query";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { instrumentsQuery, touched } from "../../api/queries";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { Sure } from "../../parts/Sure";
import { Trouble } from "../../parts/Trouble";
import { useFields } from "../../parts/useFields";
import { Waiting } from "../../parts/Waiting";

/** The wrenches and gauges that may tell what they did; a keeper registers one with the key that it shows. */
export function InstrumentsScreen() {
  const { data: instruments, error } = useQuery(instrumentsQuery);
  const { form, refused } = useFields({ name: "", key: "" });
  const register = useCommand({
    body: ({ id }) => ({ id, ...form.getValues() }),
    to: address("/api/instruments"),
    changes: touched.instruments,
    secret: true,
    done: () => form.reset(),
    refused,
  });
  if (!instruments) return <Waiting error={error} />;
  return (
    <FormFrame
      title="Wrenches and gauges on the line"
      action="Register it"
      form={form}
      pending={register.isPending}
      error={register.error ?? error}
      onSubmit={() => register.press(undefined)}
    >
      <p>
        What a registered wrench or gauge tells is evidence. What a simulated one tells is practice: a run with practice
        in it cannot end good.
      </p>
      <ul>
        {instruments.map((each) => (
          <InstrumentLine key={each.id} instrument={each} />
        ))}
      </ul>
      <Line name="name" label="Name" hint="as it stands on the wrench" required />
      <Line
        name="key"
        label="Its key"
        hint="as the wrench shows it; 32 characters or more"
        autoComplete="off"
        required
      />
    </FormFrame>
  );
}

function InstrumentLine({ instrument }: { instrument: Schemas["Instrument"] }) {
  const retire = useCommand({
    body: ({ id }) => ({ id }),
    to: address("/api/instruments/{instrument_id}/retire", { path: { instrument_id: instrument.id } }),
    changes: touched.instruments,
  });
  return (
    <li className="border-base-300 flex flex-wrap items-center justify-between gap-3 border-b py-2">
      <b>{instrument.name}</b>
      {instrument.retired ? (
        <span>retired</span>
      ) : (
        <Sure
          say="Retire"
          ask={`${instrument.name} never speaks for a run again. Retire it?`}
          onSure={() => retire.press(undefined)}
        />
      )}
      <Trouble error={retire.error} />
    </li>
  );
}
