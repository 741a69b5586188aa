import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";
import { AsTable } from "../../parts/AsTable";
import { Axis } from "../../parts/Axis";
import { calendarDay } from "../../parts/format";

type Props = {
  caption: string;
  /** What is counted, with its unit: `pulls [number]`. */
  title: string;
  days: readonly Schemas["DayCount"][];
  /** The things that are counted, from the foot of a bar upward, each with how it is filled. */
  parts: readonly { name: string; fill: string; say: string }[];
};

const [WIDE, TALL, LEFT, FOOT] = [560, 190, 52, 40];

const short = (day: string, wide: boolean) =>
  calendarDay(day, { ...(wide ? { weekday: "short" } : {}), day: "numeric" });
const long = (day: string) => calendarDay(day, { weekday: "short", day: "numeric", month: "short" });

/** Counts by day as bars, with axes, and the same as a table. */
export function DayBars({ caption, title, days, parts }: Props) {
  const sums = days.map((day) => Object.values(day.counts).reduce((sum, many) => sum + many, 0));
  const y = scaleLinear([0, Math.max(4, ...sums)], [TALL - FOOT, 30]).nice(4);
  const step = (WIDE - LEFT) / days.length;
  const whole = sums.reduce((sum, many) => sum + many, 0);
  return (
    <figure aria-label={caption}>
      <h2 className="text-lg font-bold">{caption}</h2>
      <svg viewBox={`0 0 ${WIDE} ${TALL}`} role="img" aria-label={`${caption}: ${whole}`} className="w-full">
        <Axis scale={y} title={title} at="left" place={LEFT} far={WIDE} count={4} />
        {days.map((day, place) => {
          let foot = 0;
          return (
            <g key={day.day} transform={`translate(${LEFT + place * step} 0)`}>
              {parts.map((part) => {
                const from = foot;
                foot += day.counts[part.name] ?? 0;
                return (
                  <rect
                    key={part.name}
                    x={step * 0.18}
                    width={step * 0.64}
                    y={y(foot)}
                    height={Math.max(y(from) - y(foot), 0)}
                    className={part.fill.startsWith("url") ? undefined : part.fill}
                    fill={part.fill.startsWith("url") ? part.fill : undefined}
                  />
                );
              })}
              <text x={step / 2} y={TALL - FOOT + 18} textAnchor="middle" fontSize={13} className="fill-base-content">
                {short(day.day, days.length < 10)}
              </text>
            </g>
          );
        })}
        <text x={WIDE} y={TALL - 4} textAnchor="end" fontSize={13} className="fill-base-content font-bold">
          day
        </text>
      </svg>
      <p className="flex flex-wrap gap-x-4 text-sm">
        {parts.map((part) => (
          <span key={part.name} className="flex items-center gap-2">
            <svg viewBox="0 0 16 16" className="h-4 w-4" aria-hidden="true">
              <rect
                width={16}
                height={16}
                className={part.fill.startsWith("url") ? undefined : part.fill}
                fill={part.fill.startsWith("url") ? part.fill : undefined}
              />
            </svg>
            {part.say}
          </span>
        ))}
      </p>
      <AsTable
        caption={caption}
        head={["day", ...parts.map((part) => part.say)]}
        rows={days.map((day) => [long(day.day), ...parts.map((part) => day.counts[part.name] ?? 0)])}
      />
    </figure>
  );
}
