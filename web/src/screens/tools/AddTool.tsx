import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { Choice } from "../../parts/Choice";
import { Field } from "../../parts/Field";
import { FormFrame } from "../../parts/FormFrame";
import { ScaleProof, type Seen } from "./ScaleProof";
import { KINDS, type Line, type Typed } from "./toolKinds";

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
  const [typed, setTyped] = useState<Typed>({});
  const form = KINDS[kind] ?? KINDS.wrench;
  const value = (line: Line) => typed[line.name] ?? line.start ?? "";
  const change = (name: string, text: string) => setTyped((before) => ({ ...before, [name]: text }));
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
    send: (body) => ask(api.POST("/api/tools", { body })),
    done: () => navigate(-1),
  });
  return (
    <FormFrame
      title="Add a tool"
      action="Put it into the crib"
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
      <Field
        label="Name"
        hint="as it is written on it"
        required
        value={typed.name ?? ""}
        onChange={(event) => change("name", event.target.value)}
      />
      {form?.lines.map((line) =>
        line.drawn ? (
          <ScaleProof
            key={line.name}
            draft={draft}
            seen={seen}
            onBody={(step) => change(line.name, step)}
            onSeen={setSeen}
          />
        ) : line.options ? (
          <Choice
            key={line.name}
            label={line.say}
            options={line.options.map((option) => ({ value: option, say: option }))}
            value={value(line)}
            onChange={(value) => change(line.name, value)}
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
