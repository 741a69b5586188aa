import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { toolFormsQuery, touched } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { useFields } from "../../parts/useFields";
import { Waiting } from "../../parts/Waiting";
import { OtherSideProof, ScaleProof, type Seen } from "./ScaleProof";
import { lineName, type Typed, toolFields } from "./toolForm";

const NO_ID = "00000000-0000-0000-0000-000000000000";
const number = (text: string) => Number(text.replace(",", "."));

const NOTHING: Seen = { line: "", thimble: "" };

/** Whether enough of a scale is typed to draw it. */
function isDrawable({ lowest, highest, graduation }: Pick<Schemas["Wrench"], "lowest" | "highest" | "graduation">) {
  return [lowest, highest, graduation].every((figure) => typeof figure === "number" && figure > 0) && lowest < highest;
}

/** A wrench as far as its scales can be drawn; null while that is not even its first side. */
function drawable(draft: Schemas["Wrench"]): Schemas["Wrench"] | null {
  if (!isDrawable(draft)) return null;
  return draft.second && isDrawable(draft.second) ? draft : { ...draft, second: null };
}

const seenAs = ({ line, thimble }: Seen) =>
  line === "" ? null : { line: number(line), thimble: number(thimble || "0") };

/** A tool for the crib: what kind it is, then only the lines that this kind has. */
export function AddTool() {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const [kind, setKind] = useState(search.get("kind") ?? "wrench");
  const { form: fields, refused } = useFields<Typed>({});
  const typed = fields.watch();
  const { data: forms, error } = useQuery(toolFormsQuery);
  const form = forms?.find((each) => each.kind === kind) ?? forms?.[0];
  const [seen, setSeen] = useState(NOTHING);
  const [seenOther, setSeenOther] = useState(NOTHING);
  const described = (id: string) => {
    const named = { id, name: typed.name ?? "", serial: typed.serial ?? "", owner: typed.owner ?? "" };
    return { ...named, ...toolFields(form?.fields ?? [], typed), kind } as unknown as Schemas["Wrench"];
  };
  const draft = kind === "wrench" ? drawable({ ...described(NO_ID), name: typed.name || "it" }) : null;
  const add = useCommand({
    body: ({ id }, _: string) => ({
      id,
      tool: described(id),
      seen: seenAs(seen),
      seen_second: seenAs(seenOther),
    }),
    to: address("/api/tools"),
    changes: touched.tools,
    done: () => navigate(-1),
    refused,
  });
  if (!forms) return <Waiting error={error} />;
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
        options={forms.map((each) => ({ value: each.kind, say: each.say }))}
        value={kind}
        onChange={setKind}
      />
      {form && form.usual.length > 0 && (
        <Choice
          label="Like one of these? What differs is typed over"
          options={form.usual.map(({ say }) => ({ value: say, say }))}
          value={
            form.usual.find((each) => Object.entries(each.typed).every(([name, text]) => typed[name] === text))?.say ??
            null
          }
          onChange={(say) => {
            const like = form.usual.find((each) => each.say === say);
            for (const [name, text] of Object.entries(like?.typed ?? {})) fields.setValue(name, text);
          }}
        />
      )}
      <Line name="name" label="Name" hint="as it is written on it" required />
      {form?.fields.map((field) => {
        const name = lineName(field);
        if (field.drawn) {
          const onBody = (step: string) => fields.setValue(name, step);
          return <ScaleProof key={name} draft={draft} seen={seen} onBody={onBody} onSeen={setSeen} />;
        }
        return field.options.length > 0 ? (
          <Choice
            key={name}
            label={field.say}
            options={field.options.map((option) => ({ value: option, say: option }))}
            value={typed[name] ?? field.start}
            onChange={(value) => fields.setValue(name, value)}
          />
        ) : (
          <Line
            key={name}
            name={name}
            label={field.say}
            hint={field.hint}
            {...(field.start ? { defaultValue: field.start } : {})}
            inputMode={field.takes === "text" ? "text" : "decimal"}
            required={!field.optional}
          />
        );
      })}
      <OtherSideProof draft={draft} seen={seenOther} onSeen={setSeenOther} />
      <Line name="serial" label="Serial number" />
      <Line name="owner" label="Whose it is" hint="empty if it is the shop's" />
    </FormFrame>
  );
}
