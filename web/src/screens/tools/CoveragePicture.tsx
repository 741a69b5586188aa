import { scaleLinear, scaleLog } from "d3-scale";
import type { Schemas } from "../../api/client";
import { AsTable } from "../../parts/AsTable";
import { Axis } from "../../parts/Axis";

type Coverage = Schemas["Coverage"];
type Across = (nm: number) => number;

const WIDE = 820;
const NAMES = 210;
const TALL = 120;
const ROW = 30;

/** The shop's figures over torque, what nothing reaches among them, and each wrench with what it is verified for. */
export function CoveragePicture({ coverage }: { coverage: Coverage }) {
  const edges = coverage.edges_nm;
  const x = scaleLog([edges[0] ?? 1, edges.at(-1) ?? 1000], [NAMES, NAMES + WIDE]);
  const bottom = TALL + 40 + coverage.bars.length * ROW;
  const missing = coverage.uncovered.reduce((sum, count) => sum + count, 0);
  return (
    <figure>
      <svg
        viewBox={`0 0 ${NAMES + WIDE + 20} ${bottom + 34}`}
        role="img"
        aria-label={`figures over torque; ${missing} out of reach`}
        className="w-full"
      >
        <defs>
          <pattern id="hatch" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width={6} height={6} className="fill-base-100" />
            <line y2={6} className="stroke-base-content" strokeWidth={2} />
          </pattern>
        </defs>
        <Ticks coverage={coverage} x={x} unit="lbf·ft" y={14} />
        <Ticks coverage={coverage} x={x} unit="N·m" y={bottom + 16} lines={[TALL, bottom]} />
        <Figures coverage={coverage} x={x} />
        {coverage.bars.map((bar, place) => (
          <WrenchBar key={bar.name} bar={bar} x={x} y={TALL + 20 + place * ROW} />
        ))}
      </svg>
      <p className="text-base-content/80 text-sm">
        Solid: verified. Hatched: it can be set there, and nobody has verified it. The number beside a wrench is how
        many of the shop's figures it can pull; a red part of a column is what nothing reaches.
      </p>
      <AsTable
        caption="the shop's figures"
        head={["from [N·m]", "to [N·m]", "figures", "out of reach"]}
        rows={coverage.figures
          .map((many, place) => [
            (edges[place] ?? 0).toFixed(1),
            (edges[place + 1] ?? 0).toFixed(1),
            many,
            coverage.uncovered[place] ?? 0,
          ])
          .filter(([, , many]) => many !== 0)}
      />
      <AsTable
        caption="the wrenches"
        head={["wrench", "from [N·m]", "verified from [N·m]", "to [N·m]", "figures it can pull"]}
        rows={coverage.bars.map((bar) => [
          bar.name,
          bar.lowest_nm.toFixed(1),
          bar.verified_nm.toFixed(1),
          bar.highest_nm.toFixed(1),
          bar.pulls,
        ])}
      />
    </figure>
  );
}

type TicksProps = { coverage: Coverage; x: Across; unit: string; y: number; lines?: readonly [number, number] };

function Ticks({ coverage, x, unit, y, lines }: TicksProps) {
  return (
    <g fontSize={13} aria-hidden="true">
      <text x={0} y={y} className="fill-base-content">
        {unit}
      </text>
      {coverage.ticks
        .filter((tick) => tick.unit === unit)
        .map((tick) => (
          <g key={tick.figure}>
            {lines && (
              <line x1={x(tick.at_nm)} x2={x(tick.at_nm)} y1={lines[0]} y2={lines[1]} className="stroke-base-300" />
            )}
            <text x={x(tick.at_nm)} y={y} textAnchor="middle" className="fill-base-content">
              {tick.figure}
            </text>
          </g>
        ))}
    </g>
  );
}

function Figures({ coverage, x }: { coverage: Coverage; x: Across }) {
  const edges = coverage.edges_nm;
  const most = Math.max(...coverage.figures, 1);
  const y = scaleLinear([0, most], [TALL, 30]);
  return (
    <g>
      <Axis scale={y} at="left" title="figures" place={NAMES} far={NAMES + WIDE} count={Math.min(most, 3)} />
      {coverage.figures.map((many, place) => {
        const [from = 1, to = 1] = [edges[place], edges[place + 1]];
        const column = { x: x(from), width: x(to) - x(from) - 1.5 };
        const hole = coverage.uncovered[place] ?? 0;
        return (
          <g key={from}>
            <rect {...column} y={y(many)} height={TALL - y(many)} className="fill-base-content/70" />
            {hole > 0 && (
              <rect
                {...column}
                y={y(hole)}
                height={TALL - y(hole)}
                className="fill-error stroke-error"
                strokeWidth={2}
              />
            )}
          </g>
        );
      })}
    </g>
  );
}

function WrenchBar({ bar, x, y }: { bar: Coverage["bars"][number]; x: Across; y: number }) {
  const [low, verified, high] = [x(bar.lowest_nm), x(bar.verified_nm), x(bar.highest_nm)];
  return (
    <g>
      <text x={0} y={y + 15} fontSize={14} className="fill-base-content">
        {bar.name}
      </text>
      <rect
        x={low}
        width={Math.max(verified - low, 0)}
        y={y + 2}
        height={16}
        fill="url(#hatch)"
        className="stroke-base-content"
      />
      <rect x={verified} width={high - verified} y={y + 2} height={16} className="fill-primary" />
      <text x={Math.min(high + 6, NAMES + WIDE - 10)} y={y + 15} fontSize={13} className="fill-base-content">
        {bar.pulls}
      </text>
    </g>
  );
}
