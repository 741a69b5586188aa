import { useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { curvesQuery } from "../api/queries";
import { AgreementStrip } from "./AgreementStrip";
import { AsTable } from "./AsTable";
import { Axis } from "./Axis";

const WIDE = 760;
const TALL = 300;
const LEFT = 56;
const BELOW = 46;

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
  const x = scaleLinear([0, far], [LEFT, WIDE - 40]);
  const y = scaleLinear([0, high], [TALL - BELOW, 26]);
  return (
    <figure>
      <figcaption className="font-bold">{stage}</figcaption>
      <svg
        viewBox={`0 0 ${WIDE} ${TALL}`}
        className="w-full"
        role="img"
        aria-label={`${stage}: ${curves.length} curves of torque over angle, up to ${high.toFixed(0)} N·m and ${far.toFixed(0)}°`}
      >
        <Axis scale={x} at="bottom" title="angle [°]" place={TALL - BELOW} far={26} count={8} />
        <Axis scale={y} at="left" title="torque at the wrench [N·m]" place={LEFT} far={WIDE - 40} count={5} />
        {curves.map((curve) => (
          <CurveLine key={curve.entry} curve={curve} strong={odd.has(curve.fastener)} x={x} y={y} />
        ))}
      </svg>
      <p className="text-base-content/80 text-sm">
        A thin line is a fastener, with its number at the end{odd.size > 0 ? "; a thick one stands out" : ""}.
      </p>
      <AsTable
        caption={`${stage}: where each ended`}
        head={["fastener", "torque [N·m]", "angle [°]", "stands out"]}
        rows={curves.map((curve) => [
          curve.fastener,
          (curve.torques_nm.at(-1) ?? 0).toFixed(1),
          (curve.degrees.at(-1) ?? 0).toFixed(0),
          odd.has(curve.fastener) ? "yes" : "",
        ])}
      />
    </figure>
  );
}

type LineProps = {
  curve: Schemas["Curve"];
  strong: boolean;
  x: (deg: number) => number;
  y: (nm: number) => number;
};

function CurveLine({ curve, strong, x, y }: LineProps) {
  const points = curve.degrees.map((deg, n) => `${x(deg).toFixed(1)},${y(curve.torques_nm[n] ?? 0).toFixed(1)}`);
  return (
    <g>
      <polyline
        points={points.join(" ")}
        className={`fill-none ${strong ? "stroke-error" : "stroke-primary/50"}`}
        strokeWidth={strong ? 4 : 1.6}
      />
      <text
        x={x(curve.degrees.at(-1) ?? 0) + 4}
        y={y(curve.torques_nm.at(-1) ?? 0) + 4}
        fontSize={strong ? 18 : 11}
        fontWeight={strong ? 700 : 400}
        className={strong ? "fill-error" : "fill-base-content"}
      >
        {curve.fastener}
      </text>
    </g>
  );
}
