import type { Schemas } from "../api/client";
import { FastenerShape } from "./FastenerShape";
import { GasketEdge, PartMark } from "./PartMark";
import { frameOf, Plate } from "./Plate";
import { useOneStop } from "./useOneStop";

type Props = {
  layout: Schemas["Layout"];
  fasteners?: readonly Schemas["FastenerNow"][];
  clockwise?: boolean;
  after?: string | undefined;
  chosen?: string | null;
  /** Whether the way to turn is drawn at the one that comes. */
  turning?: boolean;
  onChoose?: (label: string) => void;
  /** Of the nut that is turned by an angle now: how far it is to go, and how far it has gone. */
  angle?: { aim: number; done: number } | null;
  /** By label, the place in the order, drawn beside the nut. */
  turns?: Readonly<Record<string, number>>;
};

/** How far the nearest neighbour of any fastener is: sets the size of a drawn nut. */
function spacing(fasteners: readonly Schemas["Fastener"][]): number {
  let nearest = Number.POSITIVE_INFINITY;
  for (const [i, a] of fasteners.entries()) {
    for (const b of fasteners.slice(i + 1)) nearest = Math.min(nearest, Math.hypot(a.x_mm - b.x_mm, a.y_mm - b.y_mm));
  }
  return Number.isFinite(nearest) ? nearest : 60;
}

function TurnArrow({ radius, clockwise }: { radius: number; clockwise: boolean }) {
  const r = radius * 1.7;
  const flip = clockwise ? 1 : -1;
  const end = { x: flip * r * Math.sin(2.2), y: -r * Math.cos(2.2) };
  const start = { x: flip * r * Math.sin(0.6), y: -r * Math.cos(0.6) };
  const head = radius * 0.45;
  const turn = (2.2 * 180 * flip) / Math.PI;
  return (
    <g className="fill-none stroke-primary" strokeWidth={radius * 0.16} strokeLinecap="round" aria-hidden="true">
      <path d={`M ${start.x} ${start.y} A ${r} ${r} 0 0 ${clockwise ? 1 : 0} ${end.x} ${end.y}`} />
      <g transform={`translate(${end.x} ${end.y}) rotate(${turn})`}>
        <path d={`M ${-head * flip} ${-head * 0.75} L 0 0 L ${-head * flip} ${head * 0.75}`} />
      </g>
    </g>
  );
}

/** Start and target as a mechanic paints them on nut and plate, and the way that is done between them. */
function AngleMarks({
  radius,
  aim,
  done,
  clockwise,
}: {
  radius: number;
  aim: number;
  done: number;
  clockwise: boolean;
}) {
  const r = radius * 1.32;
  const flip = clockwise ? 1 : -1;
  const at = (deg: number, far: number) => {
    const turn = (deg * flip * Math.PI) / 180;
    return `${(far * Math.sin(turn)).toFixed(2)} ${(-far * Math.cos(turn)).toFixed(2)}`;
  };
  const arc = (to: number) => {
    const whole = Math.min(to, 359);
    return `M ${at(0, r)} A ${r} ${r} 0 ${whole > 180 ? 1 : 0} ${clockwise ? 1 : 0} ${at(whole, r)}`;
  };
  return (
    <g className="fill-none" aria-hidden="true">
      <path d={arc(aim)} className="stroke-primary/30" strokeWidth={radius * 0.2} />
      {done > 0 && <path d={arc(done)} className="stroke-primary" strokeWidth={radius * 0.2} />}
      <path
        d={`M ${at(0, radius * 0.9)} L ${at(0, radius * 1.7)}`}
        className="stroke-base-content"
        strokeWidth={radius * 0.12}
      />
      <path
        d={`M ${at(aim, radius * 1.05)} L ${at(aim, radius * 1.8)}`}
        className="stroke-success"
        strokeWidth={radius * 0.22}
      />
    </g>
  );
}

type NutProps = {
  radius: number;
  label: string;
  now: Schemas["FastenerNow"] | undefined;
  outward: number;
  next: boolean;
  kind: number;
  shape: Schemas["Kind"] | undefined;
  turn: number | undefined;
};

/** A nut: its number, one paint stroke a stage across nut and plate, a pennant where something is wrong. */
function Nut({ radius, label, now, outward, next, kind, shape, turn }: NutProps) {
  const marks = Array.from({ length: now?.marks ?? 0 }, (_, i) => i);
  const turned = now?.checked === "moved";
  const still = now?.checked === "still";
  return (
    <>
      {(still || turned) && (
        <circle
          r={radius * 1.22}
          className="fill-none stroke-success"
          strokeWidth={radius * 0.1}
          strokeDasharray={turned ? `${radius * 0.4} ${radius * 0.3}` : undefined}
        />
      )}
      {kind > 0 && (
        <circle
          r={radius * 1.14}
          className="fill-none stroke-base-content"
          strokeWidth={radius * 0.07}
          strokeDasharray={kind > 1 ? `${radius * 0.2} ${radius * 0.16}` : undefined}
        />
      )}
      <FastenerShape kind={shape} radius={radius} next={next} />
      <g transform={`rotate(${outward})`}>
        {marks.map((mark) => (
          <path
            key={mark}
            d={`M ${radius * 0.66} ${(mark - (marks.length - 1) / 2) * radius * 0.34} H ${radius * 1.42}`}
            pathLength={1}
            className="paint stroke-primary"
            strokeWidth={radius * 0.2}
            strokeLinecap="butt"
          />
        ))}
      </g>
      {now?.flagged && (
        <path
          d={`M ${-radius * 0.2} ${-radius * 1.05} V ${-radius * 2} L ${radius * 0.8} ${-radius * 1.62} L ${-radius * 0.2} ${-radius * 1.3}`}
          className="fill-error stroke-error"
          strokeWidth={radius * 0.12}
          strokeLinejoin="round"
        />
      )}
      <text
        y={radius * 0.33}
        textAnchor="middle"
        fontSize={radius * 0.95}
        fontWeight={700}
        className={next ? "fill-primary-content" : "fill-base-content"}
      >
        {label}
      </text>
      {turn !== undefined && (
        <text
          x={radius * 1.25}
          y={-radius * 0.95}
          textAnchor="middle"
          fontSize={radius * 0.72}
          fontWeight={700}
          className="fill-primary"
        >
          {turn}.
        </text>
      )}
    </>
  );
}

/** The present nut is seen from two metres, however many there are: at least this share of the joint's half width. */
const LEAST_PRESENT = 0.085;

/** The present nut last, so that its neighbours do not cover it. */
function inFront(fasteners: readonly Schemas["Fastener"][], coming: string | undefined) {
  return [...fasteners].sort((a, b) => Number(a.label === coming) - Number(b.label === coming));
}

/** The joint drawn from its layout's millimetres, as it is looked at. */
export function FastenerMap({
  layout,
  fasteners = [],
  clockwise = true,
  after,
  chosen = null,
  onChoose,
  turns,
  angle = null,
  turning = true,
}: Props) {
  const across = Math.max(...layout.fasteners.map((f) => Math.hypot(f.x_mm, f.y_mm)), 30);
  const radius = Math.min(spacing(layout.fasteners) * 0.34, across * 0.2);
  const frame = frameOf(layout.fasteners, radius, layout.marks);
  const large = Math.max(radius * 1.15, across * LEAST_PRESENT);
  const kinds = Object.keys(layout.kinds);
  const state = new Map(fasteners.map((f) => [f.label, f]));
  const coming = chosen ?? fasteners.find((f) => f.next)?.label;
  const from = layout.fasteners.find((f) => f.label === coming);
  const to = layout.fasteners.find((f) => f.label === after);
  const stops = useOneStop(layout.fasteners, coming ?? layout.fasteners[0]?.label ?? "");
  return (
    <figure className="flex h-full min-h-0 flex-col items-center">
      <svg
        viewBox={`${frame.x} ${frame.y} ${frame.width} ${frame.height}`}
        className="max-h-full min-h-0 w-full flex-1"
        role="group"
        aria-label={`${layout.fasteners.length} fasteners, looked at ${layout.looked_at}`}
      >
        <Plate frame={frame} radius={radius} />
        <GasketEdge marks={layout.marks} radius={radius} />
        {layout.marks
          .filter((mark) => mark.what !== "gasket")
          .map((mark) => (
            <PartMark key={`${mark.what}${mark.x_mm}${mark.y_mm}`} mark={mark} radius={radius} />
          ))}
        {from && to && (
          <line
            x1={from.x_mm}
            y1={-from.y_mm}
            x2={to.x_mm}
            y2={-to.y_mm}
            className="stroke-primary"
            strokeWidth={radius * 0.09}
            strokeDasharray={`${radius * 0.18} ${radius * 0.26}`}
            aria-hidden="true"
          />
        )}
        {inFront(layout.fasteners, coming).map((f) => {
          const now = state.get(f.label);
          const next = f.label === coming;
          const outward = (Math.atan2(-f.y_mm, f.x_mm) * 180) / Math.PI;
          const words = now?.words ?? `${f.label}`;
          const body = (
            <>
              <circle r={radius * 1.5} className="fill-transparent" />
              <g key={next ? "next" : "rest"} className={next ? "forward" : ""}>
                <Nut
                  radius={next ? large : radius}
                  label={f.label}
                  now={now}
                  outward={outward}
                  next={next}
                  kind={kinds.indexOf(f.kind)}
                  shape={layout.kinds[f.kind]}
                  turn={turns?.[f.label]}
                />
              </g>
              {next && turning && !angle && fasteners.length > 0 && <TurnArrow radius={large} clockwise={clockwise} />}
            </>
          );
          const place = `translate(${f.x_mm} ${-f.y_mm})`;
          return onChoose ? (
            <g
              key={f.label}
              transform={place}
              role="button"
              ref={stops.at(f.label)}
              tabIndex={f.label === stops.here ? 0 : -1}
              aria-label={words}
              aria-pressed={next}
              className="cursor-pointer outline-offset-4"
              onClick={() => onChoose(f.label)}
              onKeyDown={(event) => {
                if (event.key === "Enter") onChoose(f.label);
                else if (stops.move(event.key)) event.preventDefault();
              }}
            >
              {body}
            </g>
          ) : (
            <g key={f.label} transform={place} role="img" aria-label={words}>
              {body}
            </g>
          );
        })}
        {from && angle && (
          <g transform={`translate(${from.x_mm} ${-from.y_mm})`} className="pointer-events-none">
            <AngleMarks radius={large} {...angle} clockwise={clockwise} />
          </g>
        )}
      </svg>
      <figcaption className="text-base-content/80 pt-1 text-center text-sm">
        looked at {layout.looked_at}
        {layout.first && ` · number 1 is ${layout.first}`}
      </figcaption>
    </figure>
  );
}
