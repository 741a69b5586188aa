type Scale = {
  (value: number): number;
  ticks: (count?: number) => number[];
  tickFormat: (count?: number) => (value: number) => string;
};
type Props = {
  scale: Scale;
  /** What is measured, with its unit: `angle [°]`. */
  title: string;
  at: "bottom" | "left";
  /** Where the axis lies across its own direction, and how far its lines reach over the plot. */
  place: number;
  far: number;
  count?: number;
};

/** An axis of a plot: ticks with their figures, thin lines over the plot, and what is measured. */
export function Axis({ scale, title, at, place, far, count = 6 }: Props) {
  const say = scale.tickFormat(count);
  const ticks = scale.ticks(count);
  const ends = [scale(ticks[0] ?? 0), scale(ticks.at(-1) ?? 0)] as const;
  const bottom = at === "bottom";
  return (
    <g fontSize={13} aria-hidden="true">
      {ticks.map((tick) => {
        const along = scale(tick);
        return (
          <g key={tick}>
            <line
              {...(bottom
                ? { x1: along, x2: along, y1: place, y2: far }
                : { y1: along, y2: along, x1: place, x2: far })}
              className="stroke-base-300"
            />
            <text
              {...(bottom ? { x: along, y: place + 16 } : { x: place - 6, y: along + 4 })}
              textAnchor={bottom ? "middle" : "end"}
              className="fill-base-content"
            >
              {say(tick)}
            </text>
          </g>
        );
      })}
      <text
        {...(bottom
          ? { x: Math.max(...ends), y: place + 34 }
          : { x: place - 6, y: far > place ? Math.min(...ends) - 12 : 12 })}
        textAnchor={bottom ? "end" : "start"}
        className="fill-base-content font-bold"
      >
        {title}
      </text>
    </g>
  );
}
