import { FastenerMap } from "../../../parts/FastenerMap";
import { Trouble } from "../../../parts/Trouble";
import type { useBegin } from "./useBegin";
import type { Preparing } from "./usePreparing";

/** By what is asked before a start, what can be affirmed and what its key says. */
const ANSWERS: Record<string, readonly (readonly [string, string])[]> = {
  meter: [["meter", "It is as I read it: start"]],
  bolts: [
    ["all new", "All are new: start"],
    ["measured", "Each was measured, none is too long: start"],
  ],
};

type Props = { preparing: Preparing; begins: ReturnType<typeof useBegin> };

/** The joint, its figures, and the key that starts. */
export function StartPanel({ preparing, begins }: Props) {
  const { sheet, spec } = preparing.file;
  const { missing, asks, error, isPending, begin } = begins;
  return (
    <aside className="flex flex-col gap-4 self-start md:sticky md:top-4">
      <div className="h-56">
        <FastenerMap layout={spec.layout} />
      </div>
      <ul className="text-lg font-bold">
        {sheet.figures.map((figure) => (
          <li key={figure.stages.named}>
            {sheet.figures.length > 1 && <span className="font-normal">{figure.stages.named}: </span>}
            {figure.stages.stages.map((stage) => stage.words).join(" → ")}
          </li>
        ))}
      </ul>
      {/* On a phone the key stands at the lower edge, however far one has read. */}
      <div className="bg-base-100 border-base-300 z-10 flex flex-col gap-3 max-md:fixed max-md:inset-x-0 max-md:bottom-0 max-md:border-t max-md:p-3">
        {asks ? (
          <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4">
            <p className="text-lg">
              {asks.fault} {asks.choices.length > 0 && asks.remedy}
            </p>
            {(ANSWERS[asks.ask ?? ""] ?? []).map(
              ([affirmed, say]) =>
                (asks.choices.length === 0 || asks.choices.includes(affirmed)) && (
                  <button key={affirmed} type="button" className="btn" onClick={() => begin([affirmed])}>
                    {say}
                  </button>
                ),
            )}
          </div>
        ) : (
          <Trouble error={error} />
        )}
        <button
          type="button"
          className="btn btn-primary min-h-24 text-2xl max-md:min-h-20"
          disabled={missing !== null || isPending}
          onClick={() => begin()}
        >
          {missing ?? (preparing.retool === null ? "Start" : "Go on with it")}
        </button>
      </div>
    </aside>
  );
}
