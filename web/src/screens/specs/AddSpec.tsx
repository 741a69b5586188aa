import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { address } from "../../api/addresses";
import { Problem } from "../../api/client";
import { useCommand } from "../../api/command";
import { choicesQuery, estimateChoicesQuery, machinesQuery, touched } from "../../api/queries";
import { enterMinimalThread_handValues } from "../../api/values";
import { AskAgain } from "../../parts/AskAgain";
import { Choice } from "../../parts/Choice";
import { FormFrame } from "../../parts/FormFrame";
import { Line } from "../../parts/Line";
import { useFields } from "../../parts/useFields";
import { Waiting } from "../../parts/Waiting";
import { EstimatePanel } from "./EstimatePanel";

const CONDITIONS = ["clean and dry", "oiled", "with paste, as the document says", "with locking fluid"];
const USUAL_COUNTS = ["4", "5", "6", "8", "10"];
const OTHER = "other";
type Retorque = "short" | "days" | "none";

/** The least that a spec takes, typed from a page; or a whole one from a JSON file. It stays marked unchecked. */
export function AddSpec() {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const { data: machines } = useQuery(machinesQuery);
  const machine = machines?.find((each) => each.id === search.get("machine"));
  const { data: choices } = useQuery(estimateChoicesQuery);
  const [unsaid, setUnsaid] = useState(false);
  const [other, setOther] = useState(false);
  const { data: questions } = useQuery(choicesQuery);
  const chosen = (field: string) => Number(questions?.find((question) => question.field === field)?.chosen);
  const usual = { km: chosen("retorque_km"), days: chosen("retorque_days") };
  const { form, refused } = useFields({
    maker_model: "",
    title: "Wheel nuts",
    torque: "",
    thread: "",
    count: "",
    property_class: "",
    thread_hand: "right" as "right" | "left",
    condition: "",
    retorque: "" as Retorque | "",
    stages_by: "" as "source" | "shop" | "",
    document: "",
    page: "",
  });
  const { thread, count, property_class, thread_hand, condition, retorque, stages_by } = form.watch();
  const unanswered = [count, condition, retorque, stages_by].includes("");
  useEffect(() => {
    if (machine) form.setValue("maker_model", `${machine.maker} ${machine.model}`);
  }, [machine, form]);
  const add = useCommand({
    body: ({ id }, _: string[]) => {
      const { maker_model, count, retorque: after, stages_by: whose, ...typed } = form.getValues();
      const [maker = "", ...rest] = maker_model.trim().split(" ");
      const known = machines?.find((each) => `${each.maker} ${each.model}` === maker_model.trim());
      return {
        id,
        ...typed,
        maker: known?.maker ?? maker,
        model: known?.model ?? rest.join(" "),
        retorque_km: after === "short" ? usual.km : null,
        retorque_days: after === "short" || after === "days" ? usual.days : null,
        stages_by: whose || "shop",
        count: Number(count),
      };
    },
    to: (affirmed: string[]) => address("/api/specs/minimal", { query: { affirmed } }),
    changes: touched.specs,
    done: (entered) => {
      navigate(`/specs/${entered.id}${machine ? `?machine=${machine.id}` : ""}`, { replace: true });
    },
    refused,
  });
  if (!choices || !questions || !machines) return <Waiting error={null} />;
  const asks = add.error instanceof Problem && add.error.ask === "figure" ? add.error : null;
  return (
    <FormFrame
      title="Enter a wheel's spec"
      action="Put it on file, unchecked"
      form={form}
      pending={add.isPending}
      error={asks ? null : add.error}
      onSubmit={() => {
        if (unanswered) setUnsaid(true);
        else add.press([]);
      }}
    >
      {unsaid && unanswered && (
        <p role="alert" className="bg-warning text-warning-content rounded-box p-3 text-lg">
          Say how many there are, how the threads are, when it is pulled again, and whose the stages are.
        </p>
      )}
      <p className="flex flex-wrap gap-2">
        <Link className="btn" to={`/add/spec/whole${machine ? `?machine=${machine.id}` : ""}`}>
          Any other joint
        </Link>
        <Link className="btn" to="/add/file">
          From a file
        </Link>
      </p>
      <Line name="maker_model" label="Maker and model" required />
      <Line name="title" label="Joint" required />
      <Line
        name="torque"
        label="Torque, as written"
        hint="565–605 N·m, 430 lbf·ft, 110 ± 5 Nm, 85–95 lbf·ft + 90°"
        required
      />
      <Line name="thread" label="Thread" hint="M22×1.5, 1/2-20 UNF" required />
      <Choice
        label="How many"
        options={[...USUAL_COUNTS.map((value) => ({ value, say: value })), { value: OTHER, say: "another number" }]}
        value={other ? OTHER : count || null}
        onChange={(many) => {
          setOther(many === OTHER);
          form.setValue("count", many === OTHER ? "" : many);
        }}
      />
      {other && <Line name="count" label="Number of them" inputMode="numeric" required />}
      <Choice
        label="Class, as marked on the head"
        options={[{ value: "", say: "not known" }, ...choices.property_classes.map((value) => ({ value, say: value }))]}
        value={property_class}
        onChange={(marked) => form.setValue("property_class", marked)}
      />
      <EstimatePanel thread={thread} propertyClass={property_class} />
      <Choice
        label="Threads and seats"
        options={CONDITIONS.map((value) => ({ value, say: value }))}
        value={condition}
        onChange={(said) => form.setValue("condition", said)}
      />
      <Choice
        label="Re-torque"
        options={[
          { value: "short", say: `after ${usual.km} km, at the latest ${usual.days} days` },
          { value: "days", say: `after ${usual.days} days` },
          { value: "none", say: "none stated" },
        ]}
        value={retorque || null}
        onChange={(after) => form.setValue("retorque", after)}
      />
      <Choice
        label="30, 60, then 100 %"
        options={[
          { value: "shop", say: "this shop's own way" },
          { value: "source", say: "as the document says" },
        ]}
        value={stages_by || null}
        onChange={(whose) => form.setValue("stages_by", whose)}
      />
      <Choice
        label="Thread hand"
        options={enterMinimalThread_handValues.map((value) => ({ value, say: value }))}
        value={thread_hand}
        onChange={(hand) => form.setValue("thread_hand", hand)}
      />
      <Line name="document" label="Document" hint="the manual or bulletin that it stands in" required />
      <Line name="page" label="Page" />
      {asks && <AskAgain asked={asks} yes="It is as written: put it on file" onYes={() => add.press(["figure"])} />}
    </FormFrame>
  );
}
