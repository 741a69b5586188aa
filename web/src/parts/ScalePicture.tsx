import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";

type Face = Schemas["Wrench"]["face"];
type Props = { scale: Schemas["Scale"]; construction: Schemas["Wrench"]["construction"]; face: Face };

const WIDE = 600;
const LEFT = 20;
const MARK_APART = 31;
const MOST_NUMBERS = 12;
const LEAST_APART = 46;

/** How far along the scale a figure lies, 0 to 1. */
function along(scale: Schemas["Scale"], figure: number): number {
  return (figure - scale.lowest) / (scale.highest - scale.lowest);
}

/** From 0 to what is given, one moment after it was given: the eye sees it turn. */
function useTurned(target: number): number {
  const [now, setNow] = useState(0);
  useEffect(() => {
    const frame = requestAnimationFrame(() => setNow(target));
    return () => cancelAnimationFrame(frame);
  }, [target]);
  return now;
}

/** A wrench's own scale, set: body lines and thimble, a dial or a beam with its pointer, or digits. */
export function ScalePicture({ scale, construction, face }: Props) {
  const words = `${scale.figure} ${scale.unit}: ${scale.words}`;
  if (construction.startsWith("electronic")) return <Digits scale={scale} words={words} />;
  if (construction === "dial" || construction === "beam") return <Pointer scale={scale} words={words} />;
  if (face !== "window" && scale.line === null) return <Plain scale={scale} words={words} />;
  if (face === "window") return <InWindow scale={scale} words={words} />;
  return <Barrel scale={scale} words={words} face={face} />;
}

type Drawn = { scale: Schemas["Scale"]; words: string };

/** Where a line's number stands: above the centre line, or left and right of it in turn. */
function Line({
  figure,
  x,
  below,
  here,
  named,
}: {
  figure: number;
  x: number;
  below: boolean;
  here: boolean;
  named: boolean;
}) {
  return (
    <g transform={`translate(${x} 0)`}>
      <line
        y1={below ? 85 : 62}
        y2={below ? 108 : 85}
        className={here ? "stroke-primary" : "stroke-base-content"}
        strokeWidth={here ? 6 : 2.5}
      />
      {named && (
        <text
          y={below ? 142 : 40}
          textAnchor="middle"
          fontSize={here ? 26 : 18}
          fontWeight={here ? 700 : 400}
          className={here ? "fill-primary" : "fill-base-content"}
        >
          {figure}
        </text>
      )}
    </g>
  );
}

/** The figure alone: how this scale is drawn is not on file, so that no line is shown. */
function Plain({ scale, words }: Drawn) {
  return (
    <svg viewBox="0 0 800 130" role="img" aria-label={words} className="w-full">
      <path
        d="M 2 65 H 210 M 590 65 H 798"
        className="stroke-base-content/60"
        strokeWidth={3}
        strokeDasharray="14 12"
      />
      <text x={400} y={88} textAnchor="middle" fontSize={72} fontWeight={700} className="fill-primary">
        {scale.figure} {scale.unit}
      </text>
    </svg>
  );
}

function Barrel({ scale, words, face }: Drawn & { face: Face }) {
  const share = useTurned(scale.share);
  const at = (figure: number) => LEFT + along(scale, figure) * WIDE;
  const every = Math.ceil(scale.lines.length / MOST_NUMBERS);
  const line = scale.line ?? scale.lowest;
  const turned = scale.marks.indexOf(scale.thimble ?? Number.NaN);
  const edge = face === "lower edge" ? -5 : 6;
  return (
    <svg viewBox="0 0 800 170" role="img" aria-label={words} className="w-full">
      <rect x={2} y={50} width={WIDE + 120} height={70} rx={10} className="fill-base-200 stroke-base-content/60" />
      <line x1={LEFT} x2={WIDE + 100} y1={85} y2={85} className="stroke-base-content" strokeWidth={2} />
      {scale.other
        .filter(
          (mark, place) => place % Math.ceil(scale.other.length / MOST_NUMBERS) === 0 && mark.share <= scale.share,
        )
        .map((mark) => (
          <g key={mark.figure} transform={`translate(${LEFT + mark.share * WIDE} 0)`} className="opacity-70">
            <line y1={85} y2={102} className="stroke-base-content" strokeWidth={1.5} />
            <text y={138} textAnchor="middle" fontSize={14} className="fill-base-content">
              {mark.figure}
            </text>
          </g>
        ))}
      {scale.other.length > 0 && (
        <text x={2} y={162} fontSize={14} className="fill-base-content">
          below: {scale.other_unit}; set it by the upper side
        </text>
      )}
      {scale.lines.map((figure, place) => (
        <Line
          key={figure}
          figure={figure}
          x={at(figure)}
          below={face === "staggered" && place % 2 === 1}
          here={figure === scale.line}
          named={figure === scale.line || (place % every === 0 && figure < line && at(line) - at(figure) > LEAST_APART)}
        />
      ))}
      <g
        className="transition-transform duration-700 ease-out motion-reduce:transition-none"
        style={{ transform: `translateX(${share * WIDE}px)` }}
      >
        <path
          d={`M ${LEFT + edge} 44 L ${LEFT + edge + 40} 34 H 790 V 136 H ${LEFT + edge + 40} L ${LEFT + edge} 126 Z`}
          className="fill-base-300 stroke-base-content"
          strokeWidth={2.5}
        />
        {scale.marks.length === 0 && (
          <text x={LEFT + 58} y={92} fontSize={22} fontWeight={700} className="fill-base-content">
            {scale.figure}
          </text>
        )}
        {scale.marks.map((mark, place) => {
          const away = place - turned;
          if (Math.abs(away) > 1) return null;
          const here = away === 0;
          return (
            <g key={mark} transform={`translate(${LEFT + edge + 6} ${85 - away * MARK_APART})`}>
              <line
                x2={here ? 34 : 22}
                className={here ? "stroke-primary" : "stroke-base-content"}
                strokeWidth={here ? 5 : 2}
              />
              <text
                x={44}
                y={6}
                fontSize={here ? 24 : 14}
                fontWeight={here ? 700 : 400}
                className={here ? "fill-primary" : "fill-base-content"}
              >
                {mark}
              </text>
            </g>
          );
        })}
      </g>
    </svg>
  );
}

function InWindow({ scale, words }: Drawn) {
  const { figure, unit } = scale;
  return (
    <svg viewBox="0 0 800 170" role="img" aria-label={words} className="w-full">
      <rect
        x={2}
        y={30}
        width={796}
        height={110}
        rx={50}
        className="fill-base-200 stroke-base-content"
        strokeWidth={2}
      />
      <rect x={300} y={44} width={170} height={82} rx={10} className="fill-base-100 stroke-primary" strokeWidth={5} />
      <text x={385} y={103} textAnchor="middle" fontSize={52} fontWeight={700} className="fill-primary">
        {figure}
      </text>
      <text x={490} y={98} fontSize={30} className="fill-base-content">
        {unit}
      </text>
      <path d="M 620 44 h 130 v 82 h -130 z" className="fill-base-300 stroke-base-content" strokeWidth={2} />
      {[640, 660, 680, 700, 720, 740].map((x) => (
        <line key={x} x1={x} x2={x} y1={50} y2={120} className="stroke-base-content/60" strokeWidth={3} />
      ))}
    </svg>
  );
}

const SWEEP = 240;

function Pointer({ scale, words }: Drawn) {
  const share = useTurned(scale.share);
  return (
    <svg viewBox="-110 -100 220 200" role="img" aria-label={words} className="mx-auto max-h-64 w-full">
      <circle r={92} className="fill-base-200 stroke-base-content/60" strokeWidth={2} />
      {scale.lines.map((figure) => {
        const turn = -SWEEP / 2 + along(scale, figure) * SWEEP;
        return (
          <g key={figure} transform={`rotate(${turn})`}>
            <line y1={-88} y2={-76} className="stroke-base-content" strokeWidth={2} />
            <text y={-60} textAnchor="middle" fontSize={11} className="fill-base-content">
              {figure}
            </text>
          </g>
        );
      })}
      <g
        className="transition-transform duration-700 ease-out motion-reduce:transition-none"
        style={{ transform: `rotate(${-SWEEP / 2 + share * SWEEP}deg)` }}
      >
        <path d="M -3 12 L 0 -84 L 3 12 Z" className="fill-primary" />
      </g>
      <text y={48} textAnchor="middle" fontSize={26} fontWeight={700} className="fill-primary">
        {scale.figure}
      </text>
      <text y={64} textAnchor="middle" fontSize={12} className="fill-base-content">
        {scale.unit}
      </text>
    </svg>
  );
}

function Digits({ scale, words }: Drawn) {
  return (
    <svg viewBox="0 0 400 130" role="img" aria-label={words} className="w-full">
      <rect
        x={2}
        y={2}
        width={396}
        height={126}
        rx={12}
        className="fill-base-200 stroke-base-content"
        strokeWidth={3}
      />
      <text x={250} y={92} textAnchor="end" fontSize={80} fontWeight={700} className="fill-primary">
        {scale.figure}
      </text>
      <text x={268} y={92} fontSize={34} className="fill-base-content">
        {scale.unit}
      </text>
    </svg>
  );
}
