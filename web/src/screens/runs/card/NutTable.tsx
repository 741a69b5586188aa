import type { Schemas } from "../../../api/client";
import { clock } from "../../../parts/format";

type Cell = Schemas["CardCell"];
type Props = { table: Schemas["CardTable"] };

/** A line a fastener, stages across: what was required and what was got. A figure that all of a stage have stands in its head. */
export function NutTable({ table }: Props) {
  const shared = table.columns.map((_, column) => {
    const said = new Set(table.rows.flatMap((row) => row.cells[column]?.required ?? []));
    return said.size === 1 ? [...said][0] : "";
  });
  if (table.rows.length === 0 && table.readings.length === 0) return null;
  return (
    <section aria-label="nut by nut" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">Required, and got</h2>
      {table.rows.length > 0 && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls sideways is reached by keys
        <section className="overflow-x-auto" aria-label="the table, which scrolls sideways" tabIndex={0}>
          <table className="table-sm table">
            <thead>
              <tr>
                <td />
                {table.columns.map((name, column) => (
                  <th key={name} scope="col" className="text-base-content align-top">
                    {name}
                    {shared[column] && <span className="block font-normal">{shared[column]}</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.rows.map((row) => (
                <tr key={row.label} className="align-top">
                  <th scope="row" className={row.wrong.length > 0 ? "border-error border-l-4" : ""}>
                    <span className="whitespace-nowrap">{row.name}</span>
                    {row.wrong.map((what) => (
                      <span key={what} className="block text-xs">
                        {what}
                      </span>
                    ))}
                  </th>
                  {row.cells.map((cell, column) => (
                    <td key={table.columns[column]}>
                      {cell ? <Done cell={cell} required={shared[column] ? "" : cell.required} /> : "–"}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {table.readings.length > 0 && (
        <dl className="grid grid-cols-[auto_1fr] gap-x-4">
          {table.readings.map(({ what, cell }, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the same thing may be read several times
            <div key={place} className="contents">
              <dt className="text-base-content/80">{what}</dt>
              <dd>
                <Done cell={cell} required={cell.required} />
              </dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}

function Done({ cell, required }: { cell: Cell; required: string }) {
  const bad = cell.wrong.length > 0;
  return (
    <span className={bad ? "border-error block border-l-4 pl-2 font-bold" : ""}>
      {required && <span className="block">{required}</span>}
      {cell.got || "open"}
      {cell.how && ` (${cell.how})`}
      {bad && <span className="block">{cell.wrong.join("; ")}</span>}
      {cell.at && (
        <span className="text-base-content/80 block text-xs">
          {cell.by} · {clock(cell.at, true)}
        </span>
      )}
    </span>
  );
}
