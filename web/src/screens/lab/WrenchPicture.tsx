import type { Schemas } from "../../api/client";

/** A wrench from above: the hand's place, the crowfoot turned, what else is on its end. */
export function WrenchPicture({ wrench }: { wrench: Schemas["WrenchDrawn"] }) {
  const scale = 230 / (wrench.lever_mm + 160);
  const drive = 300 - wrench.lever_mm * scale - 30;
  const grip = drive + wrench.lever_mm * scale;
  const hand = grip + wrench.hand_mm * scale;
  const turn = (wrench.crowfoot_deg * Math.PI) / 180;
  const reach = wrench.crowfoot_mm * scale;
  const nut = { x: drive - reach * Math.cos(turn), y: 110 - reach * Math.sin(turn) };
  const others = [
    wrench.extension_mm > 0 ? `extension ${wrench.extension_mm} mm, winds up ${wrench.windup_deg.toFixed(1)}°` : "",
    wrench.bend_deg > 0 ? `joint bent ${wrench.bend_deg}°` : "",
    wrench.multiplier > 1 ? `multiplier ${wrench.multiplier} : 1` : "",
  ].filter(Boolean);
  return (
    <svg
      viewBox="0 0 340 220"
      className="max-h-80 w-full"
      role="img"
      aria-label={`a wrench of ${wrench.lever_mm} mm, crowfoot ${wrench.crowfoot_mm} mm turned by ${wrench.crowfoot_deg}°, hand ${wrench.hand_mm} mm beside the grip's middle`}
    >
      <line
        x1={drive}
        x2={grip + 34}
        y1={110}
        y2={110}
        className="stroke-secondary"
        strokeWidth={12}
        strokeLinecap="round"
      />
      <line x1={grip - 30} x2={grip + 34} y1={110} y2={110} className="stroke-base-content" strokeWidth={20} />
      <line x1={grip} x2={grip} y1={92} y2={128} className="stroke-base-100" strokeWidth={3} />
      {reach > 0 && (
        <line
          x1={drive}
          y1={110}
          x2={nut.x}
          y2={nut.y}
          className="stroke-primary"
          strokeWidth={12}
          strokeLinecap="round"
        />
      )}
      <rect
        x={drive - 9}
        y={101}
        width={18}
        height={18}
        className="fill-base-100 stroke-base-content"
        strokeWidth={2.5}
      />
      <g transform={`translate(${nut.x} ${nut.y})`}>
        <polygon
          points="0,-20 17,-10 17,10 0,20 -17,10 -17,-10"
          className="fill-base-300 stroke-base-content"
          strokeWidth={2.5}
        />
        <circle r={6} className="fill-base-content" />
      </g>
      <path
        d={`M ${hand} 62 V 92 m -8 -10 l 8 10 l 8 -10`}
        className="stroke-primary fill-none"
        strokeWidth={5}
        strokeLinecap="round"
      />
      <text x={hand} y={54} textAnchor="middle" fontSize={14} className="fill-base-content">
        hand
      </text>
      {others.map((words, place) => (
        <text key={words} x={10} y={180 + place * 17} fontSize={14} className="fill-base-content">
          {words}
        </text>
      ))}
    </svg>
  );
}
