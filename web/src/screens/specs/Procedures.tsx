import type { Schemas } from "../../api/client";
import { procedureWords } from "../../parts/format";

/** Every procedure, step by step, as one would read it aloud. */
export function Procedures({ sheet }: { sheet: Schemas["Sheet"] }) {
  return sheet.procedures.map((procedure) => (
    <section key={procedure.name} aria-label={`steps to ${procedure.name}`}>
      <h2 className="mb-1 text-lg font-bold first-letter:uppercase">{procedureWords(procedure.name)}</h2>
      <ol className="border-base-300 border-l-4 pl-4">
        {procedure.lines.map((line, index) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: the steps of one revision never move
            key={index}
            className="flex flex-wrap justify-between gap-x-4 py-1 text-lg"
            style={{ paddingLeft: `${line.depth * 1.5}rem` }}
          >
            <span>{line.words}</span>
            <span className="ml-auto flex flex-wrap justify-end gap-x-4 font-bold">
              {line.figures.map((figure) => (
                <span key={figure.of} className="whitespace-nowrap">
                  {figure.of ? `${figure.of} ${figure.figure}` : figure.figure}
                </span>
              ))}
            </span>
          </li>
        ))}
      </ol>
    </section>
  ));
}
