import type { Schemas } from "../../../api/client";
import type { Live } from "./useLine";

type Props = { live: Live; prompt: Schemas["Prompt"] };

const SWEEP = 250;
const point = (share: number, radius: number) => {
  const turn = ((-SWEEP / 2 + Math.min(Math.max(share, 0), 1) * SWEEP) * Math.PI) / 180;
  return `${(radius * Math.sin(turn)).toFixed(2)} ${(-radius * Math.cos(turn)).toFixed(2)}`;
};
const arc = (from: number, to: number, radius: number) =>
  `M ${point(from, radius)} A ${radius} ${radius} 0 ${(to - from) * SWEEP > 180 ? 1 : 0} 1 ${point(to, radius)}`;

/** What the wrench shows while it is held, large, with the band to end in. */
export function LiveGauge({ live, prompt }: Props) {
  const { unit } = live;
  const angle = prompt.angle != null;
  const shown = angle ? live.angle_deg + prompt.degrees_done : live.torque;
  const limits = angle ? prompt.angle : prompt.figure;
  const [low, high] = [Number(limits?.low ?? 0), Number(limits?.high ?? 0)];
  const most = Math.max(high * 1.25, shown, 1);
  const state = shown > high && high > 0 ? "stroke-error" : shown >= low ? "stroke-success" : "stroke-primary";
  return (
    <section aria-label="live" className="flex h-full min-h-0 flex-col items-center justify-center">
      <svg
        viewBox="-110 -105 220 190"
        className="min-h-0 w-full flex-1"
        role="img"
        aria-label={`${shown.toFixed(1)} ${angle ? "degrees" : unit}`}
      >
        <path d={arc(0, 1, 90)} className="stroke-base-300 fill-none" strokeWidth={14} />
        {high > 0 && (
          <path d={arc(low / most, high / most, 90)} className="stroke-success/50 fill-none" strokeWidth={22} />
        )}
        <path d={arc(0, shown / most, 90)} className={`${state} fill-none`} strokeWidth={14} />
        <text y={14} textAnchor="middle" fontSize={52} fontWeight={700} className="fill-base-content">
          {angle ? shown.toFixed(0) : shown.toFixed(shown < 20 ? 1 : 0)}
        </text>
        <text y={40} textAnchor="middle" fontSize={18} className="fill-base-content">
          {angle ? "degrees" : unit}
        </text>
        <text y={66} textAnchor="middle" fontSize={15} className="fill-base-content">
          {angle ? `${live.torque.toFixed(0)} ${unit}` : `${live.angle_deg.toFixed(0)}°`}
        </text>
      </svg>
    </section>
  );
}
