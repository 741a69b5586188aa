import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { useFields } from "../../parts/useFields";
import { useMe } from "../../parts/useMe";
import { Sessions } from "./Sessions";

const PIN = { type: "password", inputMode: "numeric", autoComplete: "off", required: true } as const;

/** Another PIN; after a reset nothing else can be done first. Below it, where one is signed in. */
export function ChangePin() {
  const me = useMe();
  const { form, refused } = useFields({ old: "", new: "" });
  const change = useCommand({
    body: ({ id }) => ({ id, ...form.getValues() }),
    to: address("/api/me/pin"),
    changes: touched.me,
    secret: true,
    done: () => form.reset(),
    refused,
  });
  return (
    <FormFrame
      title={me.must_change ? "Choose a PIN of your own" : `${me.person.name}, your PIN`}
      action="Change it"
      form={form}
      pending={change.isPending}
      error={change.error}
      onSubmit={() => change.press(undefined)}
    >
      {change.data !== undefined && <p role="status">It is changed.</p>}
      <Line name="old" label="PIN as it is" {...PIN} />
      <Line name="new" label="New PIN" hint="4 to 8 digits, without a pattern" {...PIN} />
      {!me.must_change && <Sessions />}
    </FormFrame>
  );
}
