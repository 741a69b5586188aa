import type { Schemas } from "../../api/client";

/** A wheel on its hub: what friction carries as a ring that fills, the studs on their circle. */
export function WheelPicture({ wheel }: { wheel: Schemas["WheelDrawn"] }) {
  const [tyre, rim] = [128, 92];
  const circle = Math.min(rim - 18, Math.max(30, (wheel.circle_mm / wheel.tyre_mm) * tyre * 0.75));
  const share = Math.min(wheel.held / 2, 1);
  const round = 2 * Math.PI * (circle + 14);
  const turned = wheel.slips ? 9 : 0;
  return (
    <svg
      viewBox="-150 -140 300 300"
      className="max-h-72 w-full"
      role="img"
      aria-label={`friction carries ${wheel.held.toFixed(2)} times a full stop${wheel.slips ? ": the wheel moves on its studs" : ""}`}
    >
      <circle r={tyre} className="fill-secondary" />
      <circle r={rim} className="fill-base-200 stroke-base-content" strokeWidth={2} />
      <circle r={circle + 14} className="stroke-base-300 fill-none" strokeWidth={12} />
      <circle
        r={circle + 14}
        className={`fill-none ${wheel.slips ? "stroke-error" : "stroke-success"}`}
        strokeWidth={12}
        strokeDasharray={`${share * round} ${round}`}
        transform="rotate(-90)"
      />
      <g transform={`rotate(${turned})`}>
        {Array.from({ length: wheel.studs }, (_, n) => (n * 360) / wheel.studs).map((at) => (
          <g key={at} transform={`rotate(${at}) translate(0 ${-circle + 6})`}>
            <polygon
              points="0,-8 7,-4 7,4 0,8 -7,4 -7,-4"
              className="fill-base-100 stroke-base-content"
              strokeWidth={2}
            />
          </g>
        ))}
      </g>
      <text y={9} textAnchor="middle" fontSize={26} fontWeight={700} className="fill-base-content">
        × {wheel.held.toFixed(2)}
      </text>
      <text y={154} textAnchor="middle" fontSize={15} className="fill-base-content">
        {wheel.slips ? "it moves on its studs" : "held by friction; half a ring is a full stop"}
      </text>
    </svg>
  );
}
