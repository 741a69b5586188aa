import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { Field } from "../../parts/Field";
import { FormFrame } from "../../parts/FormFrame";
import { newId } from "../../parts/ids";

const UNITS: readonly { value: Schemas["Wrench"]["unit"]; say: string }[] = (
  ["N·m", "lbf·ft", "lbf·in", "kgf·m"] as const
).map((value) => ({ value, say: value }));

const CONSTRUCTIONS: readonly { value: Schemas["Wrench"]["construction"]; say: string }[] = (
  ["click", "slipper", "beam", "dial", "electronic", "electronic with angle"] as const
).map((value) => ({ value, say: value }));

/** A wrench: the unit of its scale, its lowest and highest mark, the step between two. */
export function AddWrench() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [typed, setTyped] = useState({
    name: "",
    drive: "1/2 in",
    lowest: "",
    highest: "",
    graduation: "",
    body: "",
    lever: "",
  });
  const [construction, setConstruction] = useState<Schemas["Wrench"]["construction"]>("click");
  const [unit, setUnit] = useState<Schemas["Wrench"]["unit"]>("N·m");
  const line = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: React.ChangeEvent<HTMLInputElement>) => setTyped({ ...typed, [name]: event.target.value }),
    required: true,
  });
  const add = useMutation({
    mutationFn: () => {
      const { name, drive, lowest, highest, graduation, body: lines, lever } = typed;
      const body = {
        id: newId(),
        name,
        drive,
        unit,
        lowest: Number(lowest),
        highest: Number(highest),
        graduation: Number(graduation),
        body_graduation: lines ? Number(lines) : null,
        lever_mm: lever ? Number(lever) : null,
        construction,
        serial: "",
        owner: "",
      };
      return ask(api.POST("/api/wrenches", { body }));
    },
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate(-1);
    },
  });
  return (
    <FormFrame
      title="Add a wrench"
      action="Put it into the crib"
      pending={add.isPending}
      error={add.error}
      onSubmit={() => add.mutate()}
    >
      <Field label="Name" hint="as it is written on it" {...line("name")} />
      <Field label="Drive" {...line("drive")} />
      <Choice label="Unit of the scale" options={UNITS} value={unit} onChange={setUnit} />
      <Field label="Lowest mark" inputMode="decimal" {...line("lowest")} />
      <Field label="Highest mark" inputMode="decimal" {...line("highest")} />
      <Field label="Step between two marks" inputMode="decimal" {...line("graduation")} />
      <Choice label="How it is made" options={CONSTRUCTIONS} value={construction} onChange={setConstruction} />
      <Field
        label="Step between two lines on the body"
        hint="if it has a thimble below them"
        inputMode="decimal"
        {...line("body")}
        required={false}
      />
      <Field
        label="Handle, mm"
        hint="from the drive to the middle of the grip"
        inputMode="decimal"
        {...line("lever")}
        required={false}
      />
    </FormFrame>
  );
}
