import { scaleLinear } from "d3-scale";
import { Axis } from "./Axis";

type Props = { unit: string; figure: number; low: number; high: number; graduation: number };

const [WIDE, TALL, LEFT] = [420, 150, 24];

/** What a scale without a dial shows, beside the band. */
export function BandBar({ unit, figure, low, high, graduation }: Props) {
  const most = Math.max(high * 1.5, figure, graduation * 10);
  const x = scaleLinear([0, most], [LEFT, WIDE - LEFT]).nice(6);
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${TALL}`}
      className="h-full w-full"
      role="img"
      aria-label={`${figure} ${unit}, band ${low} to ${high}`}
    >
      <rect x={x(low)} width={Math.max(2, x(high) - x(low))} y={40} height={56} className="fill-success/35" />
      <Axis scale={x} at="bottom" title={unit} place={96} far={40} count={6} />
      <path
        d={`M ${x(Math.max(0, figure))} 92 l -9 -26 h 5 v -30 h 8 v 30 h 5 Z`}
        className="fill-primary stroke-base-100"
      />
    </svg>
  );
}
