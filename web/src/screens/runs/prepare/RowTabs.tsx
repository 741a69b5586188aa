import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { AnotherRow } from "./AnotherRow";
import { newRow, type Offered, type Row, rowWords } from "./tooling";

type Props = {
  rows: readonly Row[];
  active: string;
  offered: Offered;
  layout: Schemas["Layout"];
  onActive: (key: string) => void;
  onRows: (rows: Row[], active: string) => void;
};

/** Several wrenches in one run: which is for what, and one more for some of the fasteners or stages. */
export function RowTabs({ rows, active, offered, layout, onActive, onRows }: Props) {
  const [asking, setAsking] = useState(false);
  return (
    <section aria-label="several wrenches" className="flex flex-col gap-2">
      {rows.length > 1 && (
        <div className="flex flex-wrap gap-2">
          {rows.map((row) => (
            <button
              key={row.key}
              type="button"
              aria-pressed={row.key === active}
              className={`btn ${row.key === active ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
              onClick={() => onActive(row.key)}
            >
              {rowWords(row, offered.choices)}
            </button>
          ))}
          <button
            type="button"
            className="btn btn-ghost"
            onClick={() => {
              const only = newRow();
              onRows([only], only.key);
            }}
          >
            One wrench for all
          </button>
        </div>
      )}
      {asking ? (
        <AnotherRow
          offered={offered}
          layout={layout}
          onRow={(row) => {
            onRows([row, ...rows], row.key);
            setAsking(false);
          }}
          onBack={() => setAsking(false)}
        />
      ) : (
        <button type="button" className="btn btn-ghost self-start" onClick={() => setAsking(true)}>
          Another wrench, or another end, for some of them
        </button>
      )}
    </section>
  );
}
