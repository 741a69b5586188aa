import { useState } from "react";

type Props = { caption: string; head: readonly string[]; rows: readonly (readonly (string | number)[])[] };

/** The figures of a drawing as a table: for a screen reader, and for whoever wants them exactly. Made when it is opened. */
export function AsTable(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <details onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer py-2">{props.caption}, as a table</summary>
      {open && <Rows {...props} />}
    </details>
  );
}

function Rows({ caption, head, rows }: Props) {
  return (
    <div className="overflow-x-auto">
      <table className="table">
        <caption className="sr-only">{caption}</caption>
        <thead>
          <tr>
            {head.map((name) => (
              <th key={name} scope="col">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, ...figures]) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              {figures.map((figure, place) => (
                <td key={head[place + 1]}>{figure}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
