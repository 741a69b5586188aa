import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { Field } from "../../parts/Field";
import { FormFrame } from "../../parts/FormFrame";
import { newId } from "../../parts/ids";
import { KINDS, type Line, type Typed } from "./toolKinds";

/** A tool for the crib: what kind it is, then only the lines that this kind has. */
export function AddTool() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [search] = useSearchParams();
  const [kind, setKind] = useState(search.get("kind") ?? "wrench");
  const [typed, setTyped] = useState<Typed>({});
  const form = KINDS[kind] ?? KINDS.wrench;
  const value = (line: Line) => typed[line.name] ?? line.start ?? "";
  const change = (name: string, text: string) => setTyped((before) => ({ ...before, [name]: text }));
  const add = useMutation({
    mutationFn: () => {
      const lines = Object.fromEntries((form?.lines ?? []).map((line) => [line.name, value(line)]));
      const body = { id: newId(), name: typed.name ?? "", serial: typed.serial ?? "", owner: typed.owner ?? "" };
      return ask(
        api.POST("/api/tools", { body: { ...body, ...form?.build(lines), kind } as unknown as Schemas["Wrench"] }),
      );
    },
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate(-1);
    },
  });
  return (
    <FormFrame
      title="Add a tool"
      action="Put it into the crib"
      pending={add.isPending}
      error={add.error}
      onSubmit={() => add.mutate()}
    >
      <Choice
        label="What is it?"
        options={Object.entries(KINDS).map(([value, { say }]) => ({ value, say }))}
        value={kind}
        onChange={setKind}
      />
      <Field
        label="Name"
        hint="as it is written on it"
        required
        value={typed.name ?? ""}
        onChange={(event) => change("name", event.target.value)}
      />
      {form?.lines.map((line) =>
        line.options ? (
          <Choice
            key={line.name}
            label={line.say}
            options={line.options.map((one) => ({ value: one, say: one }))}
            value={value(line)}
            onChange={(one) => change(line.name, one)}
          />
        ) : (
          <Field
            key={line.name}
            label={line.say}
            {...(line.hint ? { hint: line.hint } : {})}
            inputMode={line.text ? "text" : "decimal"}
            required={!line.optional}
            value={value(line)}
            onChange={(event) => change(line.name, event.target.value)}
          />
        ),
      )}
      <Field
        label="Serial number"
        value={typed.serial ?? ""}
        onChange={(event) => change("serial", event.target.value)}
      />
      <Field
        label="Whose it is"
        hint="empty if it is the shop's"
        value={typed.owner ?? ""}
        onChange={(event) => change("owner", event.target.value)}
      />
    </FormFrame>
  );
}
