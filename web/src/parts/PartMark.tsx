import type { Schemas } from "../api/client";

/** The gasket's edge, through its corners in their order. */
export function GasketEdge({ marks, radius }: { marks: readonly Schemas["Mark"][]; radius: number }) {
  const corners = marks.filter((mark) => mark.what === "gasket");
  if (corners.length < 2) return null;
  return (
    <polygon
      points={corners.map((corner) => `${corner.x_mm},${-corner.y_mm}`).join(" ")}
      role="img"
      aria-label="the gasket's edge"
      className="stroke-base-content/60 fill-none"
      strokeWidth={radius * 0.14}
      strokeDasharray={`${radius * 0.9} ${radius * 0.3}`}
      strokeLinejoin="round"
    />
  );
}

/** Something on the part that helps to hold the drawing right: the valve, a dowel, the front, the filler. */
export function PartMark({ mark, radius }: { mark: Schemas["Mark"]; radius: number }) {
  const size = radius * 0.62;
  return (
    <g transform={`translate(${mark.x_mm} ${-mark.y_mm})`} role="img" aria-label={mark.what}>
      {mark.what === "valve" && (
        <path
          d={`M ${-size * 0.35} ${size} V ${-size * 0.4} H ${size * 0.35} V ${size} Z M ${-size * 0.2} ${-size * 0.4} V ${-size} H ${size * 0.2} V ${-size * 0.4} Z`}
          className="fill-base-content/60"
        />
      )}
      {mark.what === "dowel" && (
        <>
          <circle r={size * 0.7} className="fill-base-content/60" />
          <path
            d={`M ${-size * 0.4} 0 H ${size * 0.4} M 0 ${-size * 0.4} V ${size * 0.4}`}
            className="stroke-base-100"
            strokeWidth={size * 0.18}
          />
        </>
      )}
      {mark.what === "front" && (
        <path
          d={`M 0 ${-size * 1.2} L ${size * 0.9} ${size * 0.2} H ${size * 0.35} V ${size} H ${-size * 0.35} V ${size * 0.2} H ${-size * 0.9} Z`}
          className="fill-base-content/60"
          transform={`rotate(${(Math.atan2(mark.x_mm, mark.y_mm) * 180) / Math.PI})`}
        />
      )}
      {mark.what === "filler" && (
        <circle r={size * 0.8} className="stroke-base-content/60 fill-none" strokeWidth={size * 0.4} />
      )}
      <text x={size * 1.3} y={size * 0.4} fontSize={radius * 0.6} className="fill-base-content">
        {mark.what}
      </text>
    </g>
  );
}
