import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { useFields } from "../../parts/useFields";
import { type Roles, RolesChoice } from "./RolesChoice";

/** A keeper puts somebody on the list. */
export function AddPerson() {
  const { form, refused } = useFields({ name: "", roles: ["mechanic"] as Roles, pin: "" });
  const add = useCommand({
    body: ({ id }) => ({ id, ...form.getValues() }),
    to: address("/api/people"),
    changes: touched.people,
    secret: true,
    done: () => form.reset(),
    refused,
  });
  return (
    <FormFrame
      title="Somebody new"
      action="Put on the list"
      form={form}
      pending={add.isPending}
      error={add.error}
      onSubmit={() => add.press(undefined)}
    >
      {add.data && <p role="status">{add.data.name} is on the list.</p>}
      <Line name="name" label="Name" required />
      <RolesChoice roles={form.watch("roles")} onChange={(roles) => form.setValue("roles", roles)} />
      <Line
        name="pin"
        label="PIN"
        hint="4 to 8 digits; theirs for good, or until they change it"
        type="password"
        inputMode="numeric"
        required
      />
    </FormFrame>
  );
}
