import type { Schemas } from "../../../api/client";
import { Figures } from "../Figures";
import { Procedures } from "../Procedures";
import { OrderByTouch } from "./OrderByTouch";

type Props = { preview: Schemas["Preview"]; onOrder: (order: string) => void; onPropose: () => void };

/** What the fields would be as a spec: the map, the figure, the steps as read aloud, and the plan's pulls. */
export function PreviewPane({ preview, onOrder, onPropose }: Props) {
  const { sheet, layout } = preview;
  if (!sheet || !layout) {
    return (
      <div className="border-error border-l-8 pl-4">
        <p className="text-lg font-bold">Not a spec yet</p>
        <ul>
          {preview.faults.map((fault) => (
            <li key={`${fault.row}${fault.column}${fault.fault}`}>
              {fault.row > 1 && `step ${fault.row}, `}
              {fault.column}: {fault.fault} {fault.remedy}
            </li>
          ))}
        </ul>
      </div>
    );
  }
  return (
    <div className="flex flex-col gap-4">
      {preview.doubts.length > 0 && (
        <ul className="border-warning border-l-8 pl-4" aria-label="doubts">
          {preview.doubts.map((doubt) => (
            <li key={doubt}>{doubt}</li>
          ))}
        </ul>
      )}
      <OrderByTouch layout={layout} ways={preview.ways} hand={preview.hand} onOrder={onOrder} onPropose={onPropose} />
      <Figures sheet={sheet} />
      <Procedures sheet={sheet} />
      <section aria-label="plan">
        <h2 className="text-lg font-bold">The plan, pull by pull</h2>
        <ol className="text-sm">
          {preview.passes.map((pass) => (
            <li key={pass.id} className="border-base-300 flex justify-between gap-4 border-b py-1">
              <span>{pass.words}</span>
              <span>{pass.pulls.join(" · ")}</span>
            </li>
          ))}
        </ol>
      </section>
    </div>
  );
}
