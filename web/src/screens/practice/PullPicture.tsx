import { scaleLinear } from "d3-scale";
import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { Axis } from "../../parts/Axis";
import { felt } from "../../parts/feedback";
import { HoldKey } from "./HoldKey";
import { useHold } from "./useHold";

const [WIDE, TALL, LEFT, BELOW] = [640, 280, 58, 46];

type Props = { pull: Schemas["PullShown"]; onPull: (degrees: number) => void };

/** A fastener under a wrench: the torque grows while the key is held; the click is seen, felt, and heard where that is wanted. */
export function PullPicture({ pull, onPull }: Props) {
  const far = pull.degrees.at(-1) ?? 1;
  const { turned, keys } = useHold(
    pull.deg_per_s,
    (went) => onPull(Math.round((pull.from_deg + went) * 10) / 10),
    far - pull.from_deg,
  );
  const now = pull.from_deg + turned;
  const clicked = pull.clicks_at_deg != null && now >= pull.clicks_at_deg;
  const broken = pull.breaks_at_deg != null && now >= pull.breaks_at_deg;
  const told = useRef(false);
  useEffect(() => {
    if ((clicked || broken) && !told.current) felt();
    told.current = clicked || broken;
  }, [clicked, broken]);
  const x = scaleLinear([0, far], [LEFT, WIDE - 24]);
  const y = scaleLinear([0, Math.max(...pull.torques_nm) * 1.1], [TALL - BELOW, 24]);
  const done = pull.degrees.flatMap((deg, n) =>
    deg <= now ? [`${x(deg).toFixed(1)},${y(pull.torques_nm[n] ?? 0).toFixed(1)}`] : [],
  );
  return (
    <div className="flex flex-col gap-3">
      <svg
        viewBox={`0 0 ${WIDE} ${TALL}`}
        className={`max-h-80 w-full ${clicked ? "bg-primary/20" : broken ? "bg-error/20" : ""}`}
        role="img"
        aria-label="torque over turn, as far as it was pulled"
      >
        <Axis scale={x} at="bottom" title="turn [°]" place={TALL - BELOW} far={24} count={6} />
        <Axis scale={y} at="left" title="torque [N·m]" place={LEFT} far={WIDE - 24} count={5} />
        <polyline points={done.join(" ")} className="stroke-primary fill-none" strokeWidth={4} />
      </svg>
      <p role="status" className="h-8 text-center text-2xl font-bold">
        {broken ? "It broke." : clicked ? "Click" : ""}
      </p>
      <HoldKey say="Hold to pull" keys={keys} />
    </div>
  );
}
