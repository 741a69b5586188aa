import type { Schemas } from "../api/client";

const around = (count: number, radius: number, turn = 0): readonly (readonly [number, number])[] =>
  Array.from({ length: count }, (_, place) => {
    const angle = ((place + turn) / count) * 2 * Math.PI;
    return [radius * Math.cos(angle), radius * Math.sin(angle)] as const;
  });
const points = (corners: readonly (readonly [number, number])[]): string =>
  corners.map(([x, y]) => `${x.toFixed(2)},${y.toFixed(2)}`).join(" ");
/** Twelve points: two hexagons over one another. */
const star = (radius: number): string =>
  points(
    Array.from({ length: 24 }, (_, place) => {
      const [x, y] = around(24, place % 2 === 0 ? radius : radius * 0.84)[place] ?? [0, 0];
      return [x, y] as const;
    }),
  );

type Props = { kind: Schemas["Kind"] | undefined; radius: number; next: boolean };

/** A fastener as what it is, from above: what the wrench takes hold of, and the thread that shows in a nut. */
export function FastenerShape({ kind, radius, next }: Props) {
  const look = next ? "fill-primary stroke-primary" : "fill-base-100 stroke-base-content";
  const line = radius * 0.11;
  const head = kind?.head || (kind?.noun === "cap screw" ? "internal" : "hexagon");
  const hexagon = <polygon points={points(around(6, radius))} className={look} strokeWidth={line} />;
  switch (head) {
    case "flanged":
      return (
        <>
          <circle r={radius * 1.16} className={look} strokeWidth={line} />
          <polygon
            points={points(around(6, radius * 0.92))}
            className={next ? "fill-primary stroke-primary-content" : look}
            strokeWidth={line * 0.8}
          />
        </>
      );
    case "twelve-point":
      return <polygon points={star(radius)} className={look} strokeWidth={line} />;
    case "internal":
      return (
        <>
          <circle r={radius} className={look} strokeWidth={line} />
          <polygon
            points={points(around(6, radius * 0.74))}
            className={next ? "fill-none stroke-primary-content" : "stroke-base-content/60 fill-none"}
            strokeWidth={line * 0.7}
          />
        </>
      );
    case "square":
      return (
        <>
          <circle r={radius} className={look} strokeWidth={line} />
          <polygon
            points={points(around(4, radius * 0.8, 0.5))}
            className={next ? "fill-none stroke-primary-content" : "stroke-base-content/60 fill-none"}
            strokeWidth={line * 0.7}
          />
        </>
      );
    case "slotted":
    case "castle":
      return (
        <>
          {head === "slotted" ? <circle r={radius} className={look} strokeWidth={line} /> : hexagon}
          {around(kind?.slots || 6, radius * 0.94).map(([x, y]) => (
            <line
              key={`${x}${y}`}
              x1={x * 0.82}
              y1={y * 0.82}
              x2={x * 1.08}
              y2={y * 1.08}
              className={next ? "stroke-primary-content" : "stroke-base-content"}
              strokeWidth={radius * (head === "slotted" ? 0.2 : 0.16)}
            />
          ))}
        </>
      );
    default:
      return hexagon;
  }
}
