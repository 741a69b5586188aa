import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../../api/client";
import { columnsQuery } from "../../../api/queries";
import {
  sourceGradeValues,
  specInputChangeValues,
  specInputSystemValues,
  specInputThread_handValues,
} from "../../../api/values";
import { CellField } from "./CellField";
import type { Cells } from "./useDraft";

const SECTIONS: readonly { say: string; cells: readonly [name: string, label: string, wide?: boolean][] }[] = [
  {
    say: "Which joint, on what",
    cells: [
      ["title", "Title"],
      ["joint", "Joint"],
      ["system", "System"],
      ["maker", "Maker"],
      ["model", "Model"],
      ["variant", "Variant", true],
      ["tell", "How to tell", true],
      ["year_from", "First year"],
      ["year_to", "Last year"],
      ["serial_from", "First serial"],
      ["serial_to", "Last serial"],
      ["axles", "Axles"],
      ["sides", "Sides"],
      ["places", "Places", true],
    ],
  },
  {
    say: "The fasteners",
    cells: [
      ["layout", "Layout", true],
      ["kinds", "Kinds", true],
      ["kind_of", "Of another kind", true],
      ["groups", "Groups", true],
      ["units", "Come loose together"],
      ["thread_hand", "Thread hand"],
      ["looked_at", "Looked at"],
      ["first", "Number 1 is"],
      ["marks", "Drawn besides"],
      ["orders", "Orders", true],
    ],
  },
  {
    say: "The figure, and what goes with it",
    cells: [
      ["finals", "Final torque", true],
      ["seat", "Seat"],
      ["condition", "Condition"],
      ["orientation", "Which way round", true],
      ["cautions", "Cautions", true],
      ["followups", "Re-torque", true],
    ],
  },
  {
    say: "What proves it on the machine",
    cells: [
      ["proof_ask", "Ask", true],
      ["proof_options", "One may see"],
      ["proof_answer", "Right is"],
    ],
  },
  {
    say: "Who says so",
    cells: [
      ["document", "Document", true],
      ["page", "Page"],
      ["edition", "Edition"],
      ["year", "Year"],
      ["grade", "Grade"],
      ["change", "This revision changes"],
    ],
  },
];

const OPTIONS: Record<string, readonly string[]> = {
  thread_hand: specInputThread_handValues,
  grade: sourceGradeValues,
  change: specInputChangeValues.filter((change) => change !== "first"),
  system: specInputSystemValues,
};

type Props = { head: Cells; faults: readonly Schemas["CellFault"][]; onChange: (head: Cells) => void };

/** Everything that is said of the spec as a whole. */
export function HeadFields({ head, faults, onChange }: Props) {
  const columns = useQuery(columnsQuery).data?.columns;
  const first = (head.revision ?? "1") === "1";
  return SECTIONS.map((section) => (
    <fieldset key={section.say} className="grid gap-3 xl:grid-cols-2">
      <legend className="mb-2 text-lg font-bold">{section.say}</legend>
      {section.cells
        .filter(([name]) => name !== "change" || !first)
        .map(([name, label, wide]) => (
          <CellField
            key={name}
            label={label}
            wide={wide ?? false}
            hint={OPTIONS[name] ? undefined : columns?.[name]}
            options={OPTIONS[name]}
            value={head[name] ?? ""}
            faults={faults.filter((fault) => fault.column === name)}
            onChange={(value) => onChange({ ...head, [name]: value })}
          />
        ))}
    </fieldset>
  ));
}
