import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../api/client";
import { curvesQuery } from "../api/queries";
import { AgreementStrip } from "./AgreementStrip";

const WIDE = 760;
const TALL = 260;

/** What wrenches on the line told: who stands out, how a pass agrees, and torque over angle, one over the other. */
export function CurvesPicture({ run }: { run: string }) {
  const { data } = useQuery(curvesQuery(run));
  if (!data || (data.curves.length === 0 && data.passes.length === 0 && data.odd.length === 0)) return null;
  const passes = [...new Map(data.curves.map((curve) => [curve.pass_id, curve.stage])).entries()];
  return (
    <section aria-label="curves" className="flex flex-col gap-4">
      <h2 className="text-lg font-bold">What the wrench told</h2>
      {data.odd.map((odd) => (
        <p key={`${odd.pass_id}${odd.fastener}${odd.what}`} className="border-warning border-l-8 pl-3">
          <b>
            {odd.name}, {odd.what}.
          </b>{" "}
          {odd.means} {odd.then}
        </p>
      ))}
      {data.passes.map((pass) => (
        <AgreementStrip key={`${pass.pass_id}${pass.evidence}${pass.middle}`} agreement={pass} />
      ))}
      {passes.map(([id, stage]) => (
        <Pass
          key={id}
          stage={stage}
          curves={data.curves.filter((curve) => curve.pass_id === id)}
          odd={new Set(data.odd.filter((odd) => odd.pass_id === id).map((odd) => odd.fastener))}
        />
      ))}
    </section>
  );
}

type PassProps = { stage: string; curves: readonly Schemas["Curve"][]; odd: ReadonlySet<string> };

function Pass({ stage, curves, odd }: PassProps) {
  const far = Math.max(...curves.flatMap((curve) => curve.degrees), 1);
  const high = Math.max(...curves.flatMap((curve) => curve.torques_nm), 1);
  const x = (deg: number) => 50 + (deg / far) * (WIDE - 90);
  const y = (nm: number) => TALL - 30 - (nm / high) * (TALL - 50);
  return (
    <figure>
      <figcaption className="font-bold">{stage}</figcaption>
      <svg
        viewBox={`0 0 ${WIDE} ${TALL}`}
        className="w-full"
        role="img"
        aria-label={`${stage}: ${curves.length} curves`}
      >
        <path
          d={`M 50 20 V ${TALL - 30} H ${WIDE - 30}`}
          className="stroke-base-content/60 fill-none"
          strokeWidth={1.5}
        />
        <text x={4} y={28} fontSize={13} className="fill-base-content">
          {high.toFixed(0)} N·m
        </text>
        <text x={WIDE - 40} y={TALL - 10} textAnchor="end" fontSize={13} className="fill-base-content">
          {far.toFixed(0)}°
        </text>
        {curves.map((curve) => {
          const strong = odd.has(curve.fastener);
          const last = [curve.degrees.at(-1) ?? 0, curve.torques_nm.at(-1) ?? 0] as const;
          return (
            <g key={curve.entry}>
              <polyline
                points={curve.degrees
                  .map((deg, n) => `${x(deg).toFixed(1)},${y(curve.torques_nm[n] ?? 0).toFixed(1)}`)
                  .join(" ")}
                className={`fill-none ${strong ? "stroke-error" : "stroke-primary/50"}`}
                strokeWidth={strong ? 4 : 1.6}
              />
              <text
                x={x(last[0]) + 4}
                y={y(last[1]) + 4}
                fontSize={strong ? 18 : 11}
                fontWeight={strong ? 700 : 400}
                className={strong ? "fill-error" : "fill-base-content"}
              >
                {curve.fastener}
              </text>
            </g>
          );
        })}
      </svg>
    </figure>
  );
}
