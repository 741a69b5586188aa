import type { Schemas } from "../../api/client";
import { HoldKey } from "./HoldKey";
import { useHold } from "./useHold";

type Props = { turn: Schemas["TurnShown"]; onTurn: (degrees: number) => void };

const at = (degrees: number, far: number): string => {
  const turned = (degrees * Math.PI) / 180;
  return `${(far * Math.sin(turned)).toFixed(1)} ${(-far * Math.cos(turned)).toFixed(1)}`;
};

/** A nut with a paint mark, turned while the key is held; a gauge shows the degrees, or nothing does. */
export function TurnPicture({ turn, onTurn }: Props) {
  const { turned, keys } = useHold(turn.deg_per_s, onTurn, 170);
  const now = turn.done_deg + turned;
  return (
    <div className="flex flex-col gap-3">
      <svg
        viewBox="-120 -110 240 220"
        className="max-h-80 w-full"
        role="img"
        aria-label={turn.gauge ? `turned ${Math.round(now)}°` : "a nut with its paint mark"}
      >
        <circle r={100} className="fill-base-200 stroke-base-content/60" strokeWidth={2} />
        <path d={`M ${at(0, 64)} L ${at(0, 98)}`} className="stroke-base-content" strokeWidth={5} />
        {turn.gauge &&
          Array.from({ length: 36 }, (_, n) => n * 10).map((tick) => (
            <path
              key={tick}
              d={`M ${at(tick, tick % 30 === 0 ? 84 : 91)} L ${at(tick, 98)}`}
              className="stroke-base-content/60"
              strokeWidth={1.5}
            />
          ))}
        {turn.gauge && (
          <path d={`M ${at(turn.aim_deg, 70)} L ${at(turn.aim_deg, 100)}`} className="stroke-success" strokeWidth={5} />
        )}
        <g transform={`rotate(${now})`}>
          <polygon
            points={[0, 60, 120, 180, 240, 300].map((corner) => at(corner, 58)).join(" ")}
            className="fill-base-300 stroke-base-content"
            strokeWidth={3}
          />
          <path d={`M ${at(0, 24)} L ${at(0, 56)}`} className="stroke-primary" strokeWidth={8} />
        </g>
        {turn.gauge && (
          <text y={10} textAnchor="middle" fontSize={28} fontWeight={700} className="fill-base-content">
            {Math.round(now)}°
          </text>
        )}
      </svg>
      <HoldKey say="Hold to turn" keys={keys} />
    </div>
  );
}
