import type { Schemas } from "../api/client";

const WIDE = 760;
const LEFT = 30;
const MIDDLE = 70;

/** What each fastener of a pass read, on one line, with the band outside of which one stands out. */
export function AgreementStrip({ agreement }: { agreement: Schemas["Agreement"] }) {
  const { values, low, high, middle, odd, unit, stage, who, evidence, words } = agreement;
  const read = Object.entries(values);
  const from = Math.min(low, ...read.map(([, value]) => value));
  const to = Math.max(high, ...read.map(([, value]) => value));
  const x = (value: number) => LEFT + ((value - from) / (to - from || 1)) * (WIDE - 2 * LEFT);
  const say = (value: number) => `${value.toFixed(value < 100 ? 1 : 0)}${unit === "°" ? "" : "\u00a0"}${unit}`;
  const outside = odd.length > 0 ? `${odd.join(", ")} outside` : "none outside";
  return (
    <figure aria-label={`${stage}, ${evidence}`}>
      <figcaption className="font-bold">
        {stage}, {who}: {evidence}
      </figcaption>
      <svg
        viewBox={`0 0 ${WIDE} 122`}
        className="w-full"
        role="img"
        aria-label={`${read.length} readings about ${say(middle)}, ${outside} ${say(low)} to ${say(high)}`}
      >
        <rect x={x(low)} y={MIDDLE - 18} width={x(high) - x(low)} height={36} className="fill-base-300" />
        <path d={`M ${x(middle)} ${MIDDLE - 18} V ${MIDDLE + 28}`} className="stroke-base-content" strokeWidth={2} />
        {[low, middle, high].map((value) => (
          <text key={value} x={x(value)} y={116} textAnchor="middle" fontSize={14} className="fill-base-content">
            {say(value)}
          </text>
        ))}
        {read.map(([label, value], place) => {
          const out = odd.includes(label);
          return (
            <g key={label} transform={`translate(${x(value)} ${MIDDLE})`}>
              <circle r={out ? 10 : 6} className={out ? "fill-error" : "fill-primary"} />
              <text
                y={place % 2 ? -24 : -42}
                textAnchor="middle"
                fontSize={out ? 20 : 12}
                fontWeight={out ? 700 : 400}
                className={out ? "fill-error" : "fill-base-content"}
              >
                {label}
              </text>
            </g>
          );
        })}
      </svg>
      <p className="text-base-content/80">{words}</p>
    </figure>
  );
}
