import type { Schemas } from "../api/client";

export type Frame = { x: number; y: number; width: number; height: number; round: number };

/** The rectangle round a layout's fasteners, with room for arrows and paint. */
export function frameOf(
  fasteners: readonly Schemas["Fastener"][],
  radius: number,
  marks: readonly Schemas["Mark"][],
): Frame {
  const xs = [...fasteners, ...marks].map((f) => f.x_mm);
  const ys = [...fasteners, ...marks].map((f) => -f.y_mm);
  const edge = radius * 2.6;
  const reaches = fasteners.map((f) => Math.hypot(f.x_mm, f.y_mm));
  const reach = Math.max(...reaches);
  if (fasteners.length > 2 && reach - Math.min(...reaches) < 0.01 * reach) {
    const half = Math.max(reach + edge, ...marks.map((mark) => Math.hypot(mark.x_mm, mark.y_mm) + radius));
    return { x: -half, y: -half, width: 2 * half, height: 2 * half, round: reach };
  }
  const [left, top] = [Math.min(...xs) - edge, Math.min(...ys) - edge];
  const width = Math.max(...xs) - Math.min(...xs) + 2 * edge;
  const height = Math.max(...ys) - Math.min(...ys) + 2 * edge;
  return { x: left, y: top, width, height, round: 0 };
}

/** What the fasteners sit in: a hub for a circle, a plate for everything else. */
export function Plate({ frame, radius }: { frame: Frame; radius: number }) {
  const stroke = radius * 0.12;
  if (frame.round > 0) {
    return (
      <>
        <circle r={frame.round + radius * 2.4} className="fill-base-200 stroke-base-300" strokeWidth={stroke} />
        <circle
          r={Math.max(frame.round - radius * 2.2, frame.round * 0.25)}
          className="fill-base-100 stroke-base-300"
          strokeWidth={stroke}
        />
      </>
    );
  }
  return (
    <rect
      x={frame.x + stroke}
      y={frame.y + stroke}
      width={frame.width - 2 * stroke}
      height={frame.height - 2 * stroke}
      rx={radius * 1.4}
      className="fill-base-200 stroke-base-300"
      strokeWidth={stroke}
    />
  );
}
