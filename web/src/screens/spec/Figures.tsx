import { Fragment } from "react";
import type { Schemas } from "../../api/client";
import { figure, limits } from "../../parts/format";

/** One figure after the other, each kept in one piece. */
function stages(one: Schemas["Figure"]): string[] {
  if (one.written) return one.written.split(" → ");
  return [one.units[0] ? figure(one.units[0]) : "by measuring"];
}

/** What each kind of fastener is tightened to: as written first, then in every unit. */
export function Figures({ sheet }: { sheet: Schemas["Sheet"] }) {
  const several = sheet.figures.length > 1;
  return sheet.figures.map((one) => (
    <div key={one.of}>
      <p className={`font-bold ${one.written.length > 16 ? "text-3xl" : "text-5xl lg:text-6xl"}`}>
        {stages(one).map((stage, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the stages of one revision never move
          <Fragment key={place}>
            {place > 0 && " → "}
            <span className="whitespace-nowrap">{stage}</span>
          </Fragment>
        ))}
      </p>
      <p className="text-base-content/80 mt-1">
        as written, {one.count} × {one.of} {one.thread}
        {one.kind && ` · ${one.kind}`}
        {one.units[0] && !several && ` · aim ${figure(one.units[0])}`}
      </p>
      <ul className="mt-1 flex flex-wrap gap-x-6 text-lg">
        {one.units.slice(1).map((shown) => (
          <li key={shown.unit}>
            {figure(shown)} <span className="text-base-content/80 text-sm">{limits(shown)}</span>
          </li>
        ))}
      </ul>
    </div>
  ));
}
