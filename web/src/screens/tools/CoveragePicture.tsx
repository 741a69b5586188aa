import type { Schemas } from "../../api/client";

const WIDE = 820;
const NAMES = 210;
const TALL = 120;
const ROW = 30;
/** The shop's figures over torque, what nothing reaches among them, and each wrench with what it is verified for. */
export function CoveragePicture({ coverage }: { coverage: Schemas["Coverage"] }) {
  const edges = coverage.edges_nm;
  const [first = 1, last = 1000] = [edges[0], edges.at(-1)];
  const x = (nm: number) => NAMES + (Math.log(nm / first) / Math.log(last / first)) * WIDE;
  const ticks = (unit: string) => coverage.ticks.filter((tick) => tick.unit === unit);
  const most = Math.max(...coverage.figures, 1);
  const bottom = TALL + 40 + coverage.bars.length * ROW;
  const missing = coverage.uncovered.reduce((sum, count) => sum + count, 0);
  return (
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
      {ticks("lbf·ft").map((tick) => (
        <text
          key={tick.figure}
          x={x(tick.at_nm)}
          y={14}
          textAnchor="middle"
          fontSize={13}
          className="fill-base-content"
        >
          {tick.figure}
        </text>
      ))}
      <text x={0} y={14} fontSize={13} className="fill-base-content">
        lbf·ft
      </text>
      {coverage.figures.map((many, place) => {
        const [from = first, to = last] = [edges[place], edges[place + 1]];
        const holes = coverage.uncovered[place] ?? 0;
        const high = (many / most) * (TALL - 30);
        const hole = (holes / most) * (TALL - 30);
        return (
          <g key={from}>
            <rect
              x={x(from)}
              width={x(to) - x(from) - 1.5}
              y={TALL - high}
              height={high}
              className="fill-base-content/70"
            />
            {holes > 0 && (
              <rect
                x={x(from)}
                width={x(to) - x(from) - 1.5}
                y={TALL - hole}
                height={hole}
                className="fill-error stroke-error"
                strokeWidth={2}
              />
            )}
          </g>
        );
      })}
      <text x={0} y={TALL - 8} fontSize={15} fontWeight={700} className="fill-base-content">
        the shop's figures
      </text>
      {coverage.bars.map((bar, place) => {
        const y = TALL + 20 + place * ROW;
        return (
          <g key={bar.name}>
            <text x={0} y={y + 15} fontSize={14} className="fill-base-content">
              {bar.name}
            </text>
            <rect
              x={x(bar.lowest_nm)}
              width={Math.max(x(bar.verified_nm) - x(bar.lowest_nm), 0)}
              y={y + 2}
              height={16}
              fill="url(#hatch)"
              className="stroke-base-content"
            />
            <rect
              x={x(bar.verified_nm)}
              width={x(bar.highest_nm) - x(bar.verified_nm)}
              y={y + 2}
              height={16}
              className="fill-primary"
            />
            <text
              x={Math.min(x(bar.highest_nm) + 6, NAMES + WIDE - 10)}
              y={y + 15}
              fontSize={13}
              className="fill-base-content"
            >
              {bar.pulls}
            </text>
          </g>
        );
      })}
      {ticks("N·m").map((tick) => (
        <g key={tick.figure}>
          <line x1={x(tick.at_nm)} x2={x(tick.at_nm)} y1={TALL} y2={bottom} className="stroke-base-300" />
          <text x={x(tick.at_nm)} y={bottom + 16} textAnchor="middle" fontSize={13} className="fill-base-content">
            {tick.figure}
          </text>
        </g>
      ))}
      <text x={0} y={bottom + 16} fontSize={13} className="fill-base-content">
        N·m
      </text>
    </svg>
  );
}
