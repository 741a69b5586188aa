import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { signInQuery } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Field } from "../../parts/Field";
import { FormFrame } from "../../parts/FormFrame";

const ROLES: readonly { value: Schemas["NewPerson"]["role"]; say: string }[] = [
  { value: "mechanic", say: "mechanic" },
  { value: "lead", say: "lead" },
];

/** The lead's list of people. */
export function AddPerson() {
  const { data: door } = useQuery(signInQuery);
  const [name, setName] = useState("");
  const [pin, setPin] = useState("");
  const [role, setRole] = useState<Schemas["NewPerson"]["role"]>("mechanic");
  const add = useCommand({
    body: ({ id }, _: undefined) => ({ id, name, role, pin }),
    send: (body) => ask(api.POST("/api/people", { body })),
    changes: signInQuery.queryKey,
    done: () => {
      setName("");
      setPin("");
    },
  });
  return (
    <FormFrame
      title="People"
      action="Put on the list"
      pending={add.isPending}
      error={add.error}
      onSubmit={() => add.press(undefined)}
    >
      <ul>
        {door?.people.map((person) => (
          <li key={person.id} className="border-base-300 flex justify-between border-b py-2">
            <span>{person.name}</span> <span>{person.role}</span>
          </li>
        ))}
      </ul>
      <Field label="Name" required value={name} onChange={(e) => setName(e.target.value)} />
      <Choice label="Role" options={ROLES} value={role} onChange={setRole} />
      <Field
        label="PIN"
        hint="4 to 8 digits"
        type="password"
        inputMode="numeric"
        required
        value={pin}
        onChange={(e) => setPin(e.target.value)}
      />
    </FormFrame>
  );
}
