import { useQuery } from "@tanstack/react-query";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { signInQuery, touched } from "../../api/queries";
import { newPersonRoleValues } from "../../api/values";
import { Choice } from "../../parts/Choice";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { useFields } from "../../parts/useFields";
import { PersonLine } from "./PersonLine";

/** The lead's list of people. */
export function AddPerson() {
  const { data: door } = useQuery(signInQuery);
  const { form, refused } = useFields({ name: "", role: "mechanic" as Schemas["NewPerson"]["role"], pin: "" });
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
      title="People"
      action="Put on the list"
      form={form}
      pending={add.isPending}
      error={add.error}
      onSubmit={() => add.press(undefined)}
    >
      <ul>
        {door?.people.map((person) => (
          <PersonLine key={person.id} person={person} />
        ))}
      </ul>
      <Line name="name" label="Name" required />
      <Choice
        label="Role"
        options={newPersonRoleValues.map((value) => ({ value, say: value }))}
        value={form.watch("role")}
        onChange={(role) => form.setValue("role", role)}
      />
      <Line name="pin" label="PIN" hint="4 to 8 digits" type="password" inputMode="numeric" required />
    </FormFrame>
  );
}
