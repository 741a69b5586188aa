import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { address } from "../../../api/addresses";
import { Problem } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { columnsQuery, machinesQuery, previewQuery, rowsQuery, touched } from "../../../api/queries";
import { Frame } from "../../../parts/Frame";
import { newId } from "../../../parts/ids";
import { KeyBelow } from "../../../parts/KeyBelow";
import { Trouble } from "../../../parts/Trouble";
import { useSettled } from "../../../parts/useSettled";
import { Waiting } from "../../../parts/Waiting";
import { HeadFields } from "./HeadFields";
import { PreviewPane } from "./PreviewPane";
import { StepRows } from "./StepRows";
import { type Draft, draftOf, rowsOf, useDraft } from "./useDraft";

/** What a new spec begins with. */
const BLANK: Draft = {
  head: { revision: "1", system: "other", thread_hand: "right", layout: "circle 6, 150 mm", grade: "maker's manual" },
  steps: [
    {
      procedure: "tighten",
      step: "clean",
      kind: "do",
      say: "Threads and faces are clean and in the stated condition.",
    },
    { procedure: "tighten", step: "s1", kind: "torque", figure: "50 %" },
    { procedure: "tighten", step: "s2", kind: "torque", figure: "100 %" },
  ],
};

/** A spec, or its next revision, written with the plan and the map beside the fields. */
export function EditScreen() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const { data: given, error } = useQuery(rowsQuery(id));
  const { data: columns } = useQuery(columnsQuery);
  const { data: machines } = useQuery(machinesQuery);
  const machine = machines?.find((each) => each.id === search.get("machine"));
  const start = useMemo(() => {
    if (id) return given && columns && draftOf(given.rows as Record<string, string>[], columns.step_columns);
    const named = machine ? { maker: machine.maker, model: machine.model } : {};
    return { ...BLANK, head: { ...BLANK.head, spec: newId(), ...named } };
  }, [id, given, columns, machine]);
  const { draft, change, forget, changed } = useDraft(id || "new", start);
  const rows = useMemo(() => (draft ? rowsOf(draft) : []), [draft]);
  const settled = useSettled(rows);
  const { data: preview, error: failed } = useQuery({ ...previewQuery(settled), enabled: settled.length > 0 });
  const save = useCommand({
    body: ({ id }, _: string[]) => ({ id, rows }),
    to: (affirmed: string[]) => address("/api/specs/rows", { query: { affirmed } }),
    changes: touched.specs,
    done: (entered) => {
      forget();
      navigate(`/specs/${entered.id}?revision=${draft?.head.revision ?? 1}`, { replace: true });
    },
  });
  if (!draft) return <Waiting error={error} />;
  const asks = save.error instanceof Problem && save.error.ask === "figure";
  const setHead = (head: Draft["head"]) => change({ ...draft, head });
  return (
    <Frame title={id ? `${draft.head.title ?? ""}, revision ${draft.head.revision}` : "A whole spec"}>
      <div className="grid gap-6 p-4 md:grid-cols-[minmax(0,1fr)_21rem] xl:grid-cols-[minmax(0,1fr)_30rem]">
        <form
          className="flex min-w-0 flex-col gap-6"
          onSubmit={(event) => {
            event.preventDefault();
            save.press([]);
          }}
        >
          {changed && (
            <p className="flex flex-wrap items-center gap-3">
              Kept on this tablet until it is on file.
              <button type="button" className="btn" onClick={forget}>
                Begin anew
              </button>
            </p>
          )}
          <HeadFields head={draft.head} faults={preview?.faults ?? []} onChange={setHead} />
          <StepRows
            steps={draft.steps}
            faults={preview?.faults ?? []}
            onChange={(steps) => change({ ...draft, steps })}
          />
          {!asks && <Trouble error={save.error} />}
          {asks && (
            <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4 text-lg">
              <p>
                <b>{save.error instanceof Problem && save.error.fault}</b> Look at the document once more.
              </p>
              <button type="button" className="btn" onClick={() => save.press(["figure"])}>
                It is as written: put it on file
              </button>
            </div>
          )}
          <KeyBelow>
            <button type="submit" className="btn btn-primary text-xl" disabled={save.isPending}>
              Put it on file, unchecked
            </button>
          </KeyBelow>
        </form>
        <section aria-label="preview" className="md:sticky md:top-0 md:h-[calc(100dvh-9rem)] md:overflow-y-auto">
          <Trouble error={failed} />
          {preview && (
            <PreviewPane
              preview={preview}
              onOrder={(order) => setHead({ ...draft.head, orders: `main = ${order}` })}
              onPropose={() => setHead({ ...draft.head, orders: "" })}
            />
          )}
        </section>
      </div>
    </Frame>
  );
}
