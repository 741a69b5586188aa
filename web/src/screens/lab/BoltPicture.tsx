import type { Schemas } from "../../api/client";

const [MIDDLE, TOP, HEAD, NUT] = [150, 50, 34, 30];
/** A stretch is drawn so much larger than it is. */
const MOST_DRAWN = 46;

/** A bolt in its joint: how far it is stretched, drawn much larger than it is; what stays; whether it broke. */
export function BoltPicture({ bolt }: { bolt: Schemas["BoltDrawn"] }) {
  const grip = 150;
  const drawn = Math.min(bolt.of_yield, 1) * 26 + (bolt.stays_mm > 0 ? 12 : 0);
  const stretched = Math.min(drawn, MOST_DRAWN);
  const half = 22;
  const over = bolt.of_yield > 1;
  const gap = bolt.broken ? 26 : 0;
  const shank = over ? "fill-error" : "fill-primary";
  const bottom = TOP + HEAD + grip;
  const neck = over ? 6 : 0;
  return (
    <svg
      viewBox="0 0 300 320"
      className="max-h-72 w-full"
      role="img"
      aria-label={
        bolt.broken
          ? "the bolt is broken"
          : `the bolt is stretched by ${bolt.stretch_mm.toFixed(2)} mm, ${Math.round(bolt.of_yield * 100)} % of its yield`
      }
    >
      <g className="fill-base-300 stroke-base-content" strokeWidth={2}>
        <rect x={30} y={TOP + HEAD} width={240} height={grip / 2} />
        <rect x={30} y={TOP + HEAD + grip / 2} width={240} height={grip / 2} />
      </g>
      <rect x={MIDDLE - half - 5} y={TOP + HEAD} width={2 * half + 10} height={grip} className="fill-base-100" />
      <g className="stroke-base-content" strokeWidth={2}>
        <path
          d={`M ${MIDDLE - half} ${TOP + HEAD} V ${bottom - 60} q ${neck} 20 0 40 V ${bottom + NUT + 24} H ${MIDDLE + half} V ${bottom - 20} q ${-neck} -20 0 -40 V ${TOP + HEAD} Z`}
          className={shank}
          fillOpacity={0.3 + 0.6 * Math.min(bolt.of_yield, 1)}
        />
        {gap > 0 && (
          <path
            d={`M ${MIDDLE - half - 6} ${bottom - 44} l 18 8 l 12 -9 l 14 10 l 14 -8 v ${gap} l -14 8 l -14 -10 l -12 9 l -18 -8 Z`}
            className="fill-base-100"
          />
        )}
        {Array.from({ length: 9 }, (_, n) => bottom - 56 + n * 13).map((at) => (
          <line key={at} x1={MIDDLE - half} x2={MIDDLE + half} y1={at} y2={at + 5} strokeWidth={1.2} />
        ))}
        <Head seat={bolt.seat} />
        <rect x={MIDDLE - 46} y={bottom} width={92} height={NUT} className="fill-base-200" rx={3} />
      </g>
      <g className="stroke-primary fill-none" strokeWidth={3}>
        <path d={`M 284 ${bottom + 8} v ${stretched} m -7 0 h 14 m -14 ${-stretched} h 14`} />
      </g>
      <text x={150} y={312} textAnchor="middle" fontSize={15} className="fill-base-content">
        {bolt.broken
          ? "broken"
          : `${bolt.stretch_mm.toFixed(2)} mm longer${bolt.stays_mm > 0 ? `, ${bolt.stays_mm.toFixed(2)} mm for good` : ""}`}
      </text>
    </svg>
  );
}

function Head({ seat }: { seat: string }) {
  if (seat.startsWith("cone")) {
    return (
      <path
        d={`M ${MIDDLE - 44} ${TOP} H ${MIDDLE + 44} V ${TOP + 16} L ${MIDDLE + 24} ${TOP + HEAD + 14} H ${MIDDLE - 24} L ${MIDDLE - 44} ${TOP + 16} Z`}
        className="fill-base-200"
      />
    );
  }
  const wide = seat === "flange" ? 66 : 46;
  return (
    <>
      <rect x={MIDDLE - 44} y={TOP} width={88} height={HEAD} className="fill-base-200" rx={3} />
      {seat === "flange" && (
        <rect x={MIDDLE - wide} y={TOP + HEAD - 10} width={2 * wide} height={10} className="fill-base-200" />
      )}
    </>
  );
}
