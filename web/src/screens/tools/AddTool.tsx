import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { useFields } from "../../parts/useFields";
import { ScaleProof, type Seen } from "./ScaleProof";
import { KINDS, type Line as ToolLine, type Typed } from "./toolKinds";

const NO_ID = "00000000-0000-0000-0000-000000000000";
const number = (text: string) => Number(text.replace(",", "."));

/** A wrench with enough of its scale typed to draw it. */
function drawable(draft: Schemas["Wrench"]): Schemas["Wrench"] | null {
  const typed = [draft.lowest, draft.highest, draft.graduation].every(
    (figure) => typeof figure === "number" && figure > 0,
  );
  return typed && draft.lowest < draft.highest ? { ...draft, second: null } : null;
}

/** A tool for the crib: what kind it is, then only the lines that this kind has. */
export function AddTool() {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const [kind, setKind] = useState(search.get("kind") ?? "wrench");
  const { form: fields, refused } = useFields<Typed>({});
  const typed = fields.watch();
  const form = KINDS[kind] ?? KINDS.wrench;
  const value = (line: ToolLine) => typed[line.name] ?? line.start ?? "";
  const [seen, setSeen] = useState<Seen>({ line: "", thimble: "" });
  const described = (id: string) => {
    const lines = Object.fromEntries((form?.lines ?? []).map((line) => [line.name, value(line)]));
    const named = { id, name: typed.name ?? "", serial: typed.serial ?? "", owner: typed.owner ?? "" };
    return { ...named, ...form?.build(lines), kind } as unknown as Schemas["Wrench"];
  };
  const draft = kind === "wrench" ? drawable({ ...described(NO_ID), name: typed.name || "it" }) : null;
  const add = useCommand({
    body: ({ id }, _: string) => ({
      id,
      tool: described(id),
      seen: seen.line === "" ? null : { line: number(seen.line), thimble: number(seen.thimble || "0") },
    }),
    to: address("/api/tools"),
    changes: touched.tools,
    done: () => navigate(-1),
    refused,
  });
  return (
    <FormFrame
      title="Add a tool"
      action="Put it into the crib"
      form={fields}
      pending={add.isPending}
      error={add.error}
      onSubmit={() => add.press(kind)}
    >
      <Choice
        label="What is it?"
        options={Object.entries(KINDS).map(([value, { say }]) => ({ value, say }))}
        value={kind}
        onChange={setKind}
      />
      <Line name="name" label="Name" hint="as it is written on it" required />
      {form?.lines.map((line) =>
        line.drawn ? (
          <ScaleProof
            key={line.name}
            draft={draft}
            seen={seen}
            onBody={(step) => fields.setValue(line.name, step)}
            onSeen={setSeen}
          />
        ) : line.options ? (
          <Choice
            key={line.name}
            label={line.say}
            options={line.options.map((option) => ({ value: option, say: option }))}
            value={value(line)}
            onChange={(value) => fields.setValue(line.name, value)}
          />
        ) : (
          <Line
            key={line.name}
            name={line.name}
            label={line.say}
            {...(line.hint ? { hint: line.hint } : {})}
            {...(line.start ? { defaultValue: line.start } : {})}
            inputMode={line.text ? "text" : "decimal"}
            required={!line.optional}
          />
        ),
      )}
      <Line name="serial" label="Serial number" />
      <Line name="owner" label="Whose it is" hint="empty if it is the shop's" />
    </FormFrame>
  );
}
