import { scaleLinear } from "d3-scale";
import { type ReactNode, useRef } from "react";
import type { Schemas } from "../api/client";
import { AsTable } from "./AsTable";
import { Axis } from "./Axis";
import { saveCsv, saveSvg } from "./takeAway";

type Plot = Schemas["LabPlot"];
type Tone = Schemas["PlotLevel"]["tone"];
type Along = (value: number) => number;

const STROKE: Readonly<Record<Tone, string>> = {
  main: "stroke-primary",
  plain: "stroke-base-content",
  faint: "stroke-base-content/50",
  good: "stroke-success",
  bad: "stroke-error",
};
const FILL: Readonly<Record<Tone, string>> = {
  main: "fill-primary",
  plain: "fill-base-content",
  faint: "fill-base-content/15",
  good: "fill-success",
  bad: "fill-error",
};
const WIDE = 640;
const TALL = 300;
const ROW = 62;
const [LEFT, RIGHT, ABOVE, BELOW] = [58, 24, 42, 46];

/** A plot: lines over two axes, or rows over one; with its figures as a table, and both to take away. */
export function PlotPicture({ plot }: { plot: Plot }) {
  const drawn = useRef<SVGSVGElement>(null);
  const tall = plot.rows.length > 0 ? ABOVE + plot.rows.length * ROW + BELOW : TALL;
  const bottom = tall - BELOW;
  const x = scaleLinear([plot.x.low, plot.x.high], [LEFT, WIDE - RIGHT]);
  const y = plot.y ? scaleLinear([plot.y.low, plot.y.high], [bottom, ABOVE]) : null;
  const { head, rows } = figures(plot);
  return (
    <figure aria-label={plot.title} className="flex flex-col gap-1">
      <figcaption className="font-bold">{plot.title}</figcaption>
      <svg ref={drawn} viewBox={`0 0 ${WIDE} ${tall}`} className="w-full" role="img" aria-label={plot.title}>
        <Axis scale={x} at="bottom" title={plot.x.title} place={bottom} far={ABOVE} count={7} />
        {y && plot.y && <Axis scale={y} at="left" title={plot.y.title} place={LEFT} far={WIDE - RIGHT} count={5} />}
        {y && plot.lines.map((line) => <Line key={line.name} line={line} x={x} y={y} bottom={bottom} />)}
        {plot.levels.map((level, place) => (
          <Level key={`${level.name}${level.at}`} level={level} x={x} y={y} bottom={bottom} place={place} />
        ))}
        {plot.rows.map((row, place) => (
          <Row key={row.name} row={row} x={x} top={ABOVE + place * ROW} span={plot.x} />
        ))}
      </svg>
      <Legend lines={plot.lines} />
      <div className="flex flex-wrap items-start gap-2">
        <div className="min-w-0 flex-1">
          <AsTable caption={plot.title} head={head} rows={rows} />
        </div>
        <button
          type="button"
          className="btn btn-ghost"
          onClick={() => drawn.current && saveSvg(plot.name, drawn.current)}
        >
          SVG
        </button>
        <button type="button" className="btn btn-ghost" onClick={() => saveCsv(plot.name, [head, ...rows])}>
          CSV
        </button>
      </div>
    </figure>
  );
}

function Line({ line, x, y, bottom }: { line: Schemas["PlotLine"]; x: Along; y: Along; bottom: number }) {
  const low = (value: number) => Math.min(bottom, Math.max(ABOVE - 12, y(value)));
  const points = line.x.map((at, n) => `${x(at).toFixed(1)},${low(line.y[n] ?? 0).toFixed(1)}`);
  if (line.upper.length > 0) {
    const back = line.x.map((at, n) => `${x(at).toFixed(1)},${low(line.upper[n] ?? 0).toFixed(1)}`).reverse();
    return <polygon points={[...points, ...back].join(" ")} className={FILL[line.tone]} />;
  }
  return (
    <polyline
      points={points.join(" ")}
      className={`fill-none ${STROKE[line.tone]}`}
      strokeWidth={line.tone === "main" ? 3.5 : 2}
      strokeDasharray={line.dashed ? "8 5" : undefined}
    />
  );
}

type RowProps = { row: Schemas["PlotRow"]; x: Along; top: number; span: Schemas["PlotAxis"] };

/** A range with its middle; a histogram where there are shares. */
function Row({ row, x, top, span }: RowProps) {
  const most = Math.max(...row.shares, 1e-9);
  const wide = (span.high - span.low) / Math.max(row.shares.length, 1);
  const middle = top + ROW * 0.68;
  return (
    <g>
      <text
        x={LEFT}
        y={top + 14}
        fontSize={14}
        fontWeight={700}
        className="fill-base-content stroke-base-100"
        strokeWidth={5}
        paintOrder="stroke"
      >
        {row.name}
        <tspan dx={10} fontWeight={400} className={row.tone === "bad" ? "fill-error" : "fill-base-content"}>
          {row.words}
        </tspan>
      </text>
      {row.shares.map((share, n) => {
        const high = (share / most) * (ROW - 24);
        const at = span.low + n * wide;
        return (
          <rect
            key={at}
            x={x(at)}
            width={Math.max(x(at + wide) - x(at) - 0.6, 0.4)}
            y={top + ROW - 4 - high}
            height={high}
            className={`${FILL[row.tone]} opacity-70`}
          />
        );
      })}
      {row.shares.length === 0 && (
        <>
          <rect
            x={x(row.low)}
            width={Math.max(x(row.high) - x(row.low), 1)}
            y={middle - 10}
            height={20}
            className={`${FILL[row.tone]} opacity-70`}
          />
          <line
            x1={x(row.mid)}
            x2={x(row.mid)}
            y1={middle - 14}
            y2={middle + 14}
            className="stroke-base-content"
            strokeWidth={3}
          />
        </>
      )}
    </g>
  );
}

type LevelProps = { level: Schemas["PlotLevel"]; x: Along; y: Along | null; bottom: number; place: number };

function Level({ level, x, y, bottom, place }: LevelProps) {
  const common = {
    className: STROKE[level.tone],
    strokeWidth: level.tone === "main" ? 3 : 1.8,
    strokeDasharray: level.tone === "main" ? undefined : "5 4",
  };
  if (level.along === "x") {
    const at = x(level.at);
    const late = at > WIDE - 120;
    return (
      <g>
        <line x1={at} x2={at} y1={ABOVE - 6} y2={bottom} {...common} />
        <text
          x={late ? at - 4 : at + 4}
          y={14 + (place % 2) * 15}
          fontSize={13}
          textAnchor={late ? "end" : "start"}
          className={FILL[level.tone]}
        >
          {level.name}
        </text>
      </g>
    );
  }
  if (!y) return null;
  return (
    <g>
      <line x1={LEFT} x2={WIDE - RIGHT} y1={y(level.at)} y2={y(level.at)} {...common} />
      <text x={WIDE - RIGHT} y={y(level.at) - 5} fontSize={13} textAnchor="end" className={FILL[level.tone]}>
        {level.name}
      </text>
    </g>
  );
}

function Legend({ lines }: { lines: readonly Schemas["PlotLine"][] }): ReactNode {
  if (lines.length < 2) return null;
  return (
    <ul className="flex flex-wrap gap-x-4 text-sm">
      {lines.map((line) => (
        <li key={line.name} className="flex items-center gap-2">
          <svg viewBox="0 0 28 12" className="h-3 w-7" aria-hidden="true">
            {line.upper.length > 0 ? (
              <rect width={28} height={12} className={FILL[line.tone]} />
            ) : (
              <line
                x2={28}
                y1={6}
                y2={6}
                className={STROKE[line.tone]}
                strokeWidth={3}
                strokeDasharray={line.dashed ? "6 4" : undefined}
              />
            )}
          </svg>
          {line.name}
        </li>
      ))}
    </ul>
  );
}

type Figures = { head: string[]; rows: (string | number)[][] };

/** The figures of a plot, for its table and its file. */
function figures(plot: Plot): Figures {
  const said = (value: number) => Number(value.toPrecision(4));
  if (plot.rows.length > 0) {
    const rows = plot.rows.map((row) => [row.name, said(row.low), said(row.mid), said(row.high), row.words]);
    return { head: ["", "low", "middle", "high", plot.x.title], rows };
  }
  const rows = plot.lines.flatMap((line) =>
    line.x.map((at, n) => [
      `${line.name}, ${n + 1}`,
      said(at),
      said(line.y[n] ?? 0),
      ...(line.upper.length > 0 ? [said(line.upper[n] ?? 0)] : []),
    ]),
  );
  const banded = plot.lines.some((line) => line.upper.length > 0);
  return { head: ["line", plot.x.title, plot.y?.title ?? "", ...(banded ? ["upper"] : [])], rows };
}
