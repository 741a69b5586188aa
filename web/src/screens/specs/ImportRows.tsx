import type { Schemas } from "../../api/client";

const SAY: Record<Schemas["FileRow"]["verdict"], string> = {
  new: "new",
  revision: "next revision",
  same: "on file already",
  asks: "unlikely",
  refused: "refused",
};

const BAR: Partial<Record<Schemas["FileRow"]["verdict"], string>> = {
  refused: "border-l-error",
  asks: "border-l-warning",
};

/** What would become of each row; what needs a look comes with its column, its fault and its remedy. */
export function ImportRows({ told }: { told: Schemas["Rehearsal"] }) {
  const shown = new Set(told.rows.map((row) => row.number)).size;
  return (
    <>
      <ol>
        {told.rows.map((row) => (
          <li
            key={`${row.number}${row.field}${row.fault}`}
            className={`border-base-300 border-b border-l-8 py-2 pl-3 ${BAR[row.verdict] ?? "border-l-transparent"}`}
          >
            <b>
              {row.number}. {row.title || "no title"}
            </b>{" "}
            · {SAY[row.verdict]}
            {row.fault && (
              <span className="block">
                <b>{row.field}</b>: {row.fault} {row.remedy}
              </span>
            )}
          </li>
        ))}
      </ol>
      {shown < told.specs && <p>The first of {told.specs} are shown, those that need a look among them.</p>}
    </>
  );
}
