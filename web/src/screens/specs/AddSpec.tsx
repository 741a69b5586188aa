import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, ask, Problem } from "../../api/client";
import { useCommand } from "../../api/command";
import { estimateChoicesQuery, machinesQuery } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Field } from "../../parts/Field";
import { FormFrame } from "../../parts/FormFrame";
import { EstimatePanel } from "./EstimatePanel";

const HANDS = [
  { value: "right", say: "right" },
  { value: "left", say: "left" },
] as const;

/** The least that a spec takes, typed from a page; or a whole one from a JSON file. It stays marked unchecked. */
export function AddSpec() {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const { data: machines } = useQuery(machinesQuery);
  const machine = machines?.find((each) => each.id === search.get("machine"));
  const [typed, setTyped] = useState({
    title: "Wheel nuts",
    torque: "",
    thread: "",
    count: "",
    document: "",
    page: "",
  });
  const [model, setModel] = useState<string | null>(null);
  const [hand, setHand] = useState<"right" | "left">("right");
  const [propertyClass, setPropertyClass] = useState<string | null>(null);
  const { data: choices } = useQuery(estimateChoicesQuery);
  const line = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: React.ChangeEvent<HTMLInputElement>) => setTyped({ ...typed, [name]: event.target.value }),
    required: true,
  });
  const makerModel = model ?? (machine ? `${machine.maker} ${machine.model}` : "");
  const add = useCommand({
    body: ({ id }, _: string[]) => {
      const [maker = "", ...rest] = makerModel.trim().split(" ");
      const known = machines?.find((each) => `${each.maker} ${each.model}` === makerModel.trim());
      const { title, torque, thread, count, document, page } = typed;
      return {
        id,
        title,
        maker: known?.maker ?? maker,
        model: known?.model ?? rest.join(" "),
        torque,
        thread,
        property_class: propertyClass ?? "",
        condition: "",
        count: Number(count),
        thread_hand: hand,
        document,
        page,
      };
    },
    send: (body, affirmed) => ask(api.POST("/api/specs/minimal", { params: { query: { affirmed } }, body })),
    done: (entered) => {
      navigate(`/specs/${entered.id}${machine ? `?machine=${machine.id}` : ""}`, { replace: true });
    },
  });
  const asks = add.error instanceof Problem && add.error.ask === "figure";
  return (
    <FormFrame
      title="Enter a wheel's spec"
      action="Put it on file, unchecked"
      pending={add.isPending}
      error={asks ? null : add.error}
      onSubmit={() => add.press([])}
    >
      <p className="flex flex-wrap gap-2">
        <Link className="btn" to={`/add/spec/whole${machine ? `?machine=${machine.id}` : ""}`}>
          Any other joint
        </Link>
        <Link className="btn" to="/add/file">
          From a file
        </Link>
      </p>
      <Field label="Maker and model" required value={makerModel} onChange={(e) => setModel(e.target.value)} />
      <Field label="Joint" {...line("title")} />
      <Field
        label="Torque, as written"
        hint="565–605 N·m, 430 lbf·ft, 110 ± 5 Nm, 85–95 lbf·ft + 90°"
        {...line("torque")}
      />
      <Field label="Thread" hint="M22×1.5, 1/2-20 UNF" {...line("thread")} />
      <Field label="How many" inputMode="numeric" {...line("count")} />
      {choices && (
        <Choice
          label="Class, as marked on the head"
          options={[
            { value: "", say: "not known" },
            ...choices.property_classes.map((value) => ({ value, say: value })),
          ]}
          value={propertyClass ?? ""}
          onChange={setPropertyClass}
        />
      )}
      <EstimatePanel thread={typed.thread} propertyClass={propertyClass ?? ""} />
      <Choice label="Thread hand" options={HANDS} value={hand} onChange={setHand} />
      <Field label="Document" hint="the manual or bulletin that it stands in" {...line("document")} />
      <Field label="Page" {...line("page")} required={false} />
      {asks && (
        <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4 text-lg">
          <p>
            <b>{add.error instanceof Problem && add.error.fault}</b> {add.error instanceof Problem && add.error.remedy}
          </p>
          <button type="button" className="btn" onClick={() => add.press(["figure"])}>
            It is as written: put it on file
          </button>
        </div>
      )}
    </FormFrame>
  );
}
