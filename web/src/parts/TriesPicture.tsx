import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { AsTable } from "./AsTable";
import { Axis } from "./Axis";

const [LEFT, BELOW] = [60, 46];

/**
 * What was tried so far: the setting across, the reading upward, the band shaded, what is believed as a line with its uncertainty, and
 * what is proposed as a ghost. `low`: beside other things, where there is width but little height.
 */
export function TriesPicture({ advised, low: flat = false }: { advised: Schemas["Advised"]; low?: boolean }) {
  const [WIDE, TALL] = flat ? [640, 200] : [560, 340];
  const { tries, proposal, low, high } = advised;
  const ghost = proposal?.do === "move" && proposal.to != null ? proposal.to : null;
  const newest = tries.at(-1);
  const settings = [...tries.map((each) => each.at), ...(ghost === null ? [] : [ghost]), advised.at];
  const readings = [...tries.map((each) => each.reading), low, high, ...[proposal?.expect_high ?? high]];
  const near = advised.unit === "positions" || advised.unit === "°" ? 1 : Math.max(advised.step * 2, 0.01);
  const x = scaleLinear([Math.min(...settings) - near, Math.max(...settings) + near], [LEFT, WIDE - 24]);
  const y = scaleLinear([0, Math.max(...readings) * 1.15], [TALL - BELOW, 28]).nice(5);
  const span = Math.round(Math.max(...settings) - Math.min(...settings) + 2 * near);
  const points = tries.map((each) => `${x(each.at)},${y(each.reading)}`).join(" ");
  return (
    <figure aria-label="tries so far" className="flex h-full min-h-0 flex-col">
      <svg
        viewBox={`0 0 ${WIDE} ${TALL}`}
        className="min-h-0 w-full flex-1"
        role="img"
        aria-label={`${tries.length} readings of ${advised.what}; band ${advised.band.low} to ${advised.band.high} ${advised.band.unit}`}
      >
        <rect
          x={LEFT}
          width={WIDE - 24 - LEFT}
          y={y(high)}
          height={y(low) - y(high)}
          className="fill-success/25 stroke-success"
          strokeDasharray="6 4"
        />
        <Axis
          scale={x}
          at="bottom"
          title={`${advised.setting} [${advised.unit === "positions" ? "number" : advised.unit}]`}
          place={TALL - BELOW}
          far={28}
          count={advised.unit === "positions" ? Math.min(6, span) : 6}
        />
        <Axis
          scale={y}
          at="left"
          title={`${advised.what} [${advised.reads_in}]`}
          place={LEFT}
          far={WIDE - 24}
          count={5}
        />
        <polyline points={points} className="stroke-base-content/60 fill-none" strokeWidth={2} />
        {tries.map((each, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a try has no name but its place
          <g key={place} transform={`translate(${x(each.at)} ${y(each.reading)})`}>
            <circle
              r={9}
              className={place === tries.length - 1 ? "fill-primary" : "fill-base-100 stroke-base-content"}
              strokeWidth={2}
            />
            <text
              y={4}
              textAnchor="middle"
              fontSize={12}
              fontWeight={700}
              className={place === tries.length - 1 ? "fill-primary-content" : "fill-base-content"}
            >
              {place + 1}
            </text>
          </g>
        ))}
        {newest && ghost !== null && proposal?.expect != null && (
          <g className="stroke-primary">
            <path
              d={`M ${x(newest.at)} ${y(newest.reading)} L ${x(ghost)} ${y(proposal.expect_high ?? proposal.expect)} V ${y(Math.max(proposal.expect_low ?? proposal.expect, 0))} Z`}
              className="fill-primary/20 stroke-none"
            />
            <path
              d={`M ${x(newest.at)} ${y(newest.reading)} L ${x(ghost)} ${y(proposal.expect)}`}
              strokeWidth={2}
              strokeDasharray="8 4"
            />
          </g>
        )}
        {ghost !== null && proposal?.expect != null && (
          <g transform={`translate(${x(ghost)} 0)`} className="stroke-primary fill-none" strokeWidth={2.5}>
            {proposal.expect_low != null && proposal.expect_high != null && (
              <path
                d={`M 0 ${y(Math.max(proposal.expect_low, 0))} V ${y(proposal.expect_high)} M -7 ${y(Math.max(proposal.expect_low, 0))} H 7 M -7 ${y(proposal.expect_high)} H 7`}
              />
            )}
            <circle cy={y(proposal.expect)} r={9} strokeDasharray="4 3" />
          </g>
        )}
      </svg>
      <AsTable
        caption="tries so far"
        head={["try", `${advised.setting}, ${advised.unit}`, `${advised.what}, ${advised.reads_in}`]}
        rows={tries.map((each, place) => [place + 1, each.at, each.reading])}
      />
    </figure>
  );
}
