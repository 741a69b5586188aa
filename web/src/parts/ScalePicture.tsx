import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";

type Props = { scale: Schemas["Scale"]; construction: Schemas["Wrench"]["construction"] };

const WIDE = 600;
const LEFT = 20;
const MARK_APART = 21;
const MOST_NUMBERS = 12;

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
export function ScalePicture({ scale, construction }: Props) {
  const words = `${scale.figure} ${scale.unit}: ${scale.words}`;
  if (construction.startsWith("electronic")) return <Digits scale={scale} words={words} />;
  if (construction === "dial" || construction === "beam") return <Pointer scale={scale} words={words} />;
  return <Barrel scale={scale} words={words} />;
}

type Drawn = { scale: Schemas["Scale"]; words: string };

function Barrel({ scale, words }: Drawn) {
  const share = useTurned(scale.share);
  const at = (figure: number) => LEFT + along(scale, figure) * WIDE;
  const every = Math.ceil(scale.lines.length / MOST_NUMBERS);
  const turned = scale.marks.findIndex((mark) => Math.abs(mark - scale.thimble) < 1e-6);
  return (
    <svg viewBox="0 0 800 170" role="img" aria-label={words} className="w-full">
      <rect x={2} y={50} width={WIDE + 120} height={70} rx={10} className="fill-base-200 stroke-base-content/60" />
      <line x1={LEFT} x2={WIDE + 100} y1={85} y2={85} className="stroke-base-content" strokeWidth={2} />
      {scale.lines.map((figure, place) => (
        <g key={figure} transform={`translate(${at(figure)} 0)`}>
          <line
            y1={place % 2 ? 85 : 62}
            y2={place % 2 ? 108 : 85}
            className={figure === scale.line ? "stroke-primary" : "stroke-base-content"}
            strokeWidth={figure === scale.line ? 6 : 2.5}
          />
          {(figure === scale.line || (place % every === 0 && figure < scale.line)) && (
            <text
              y={place % 2 ? 142 : 40}
              textAnchor="middle"
              fontSize={figure === scale.line ? 26 : 18}
              fontWeight={figure === scale.line ? 700 : 400}
              className={figure === scale.line ? "fill-primary" : "fill-base-content"}
            >
              {figure}
            </text>
          )}
        </g>
      ))}
      <g
        className="transition-transform duration-700 ease-out motion-reduce:transition-none"
        style={{ transform: `translateX(${share * WIDE}px)` }}
      >
        <path
          d={`M ${LEFT + 6} 44 L ${LEFT + 46} 34 H 790 V 136 H ${LEFT + 46} L ${LEFT + 6} 126 Z`}
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
          if (Math.abs(away) > 2) return null;
          const here = away === 0;
          return (
            <g key={mark} transform={`translate(${LEFT + 12} ${85 - away * MARK_APART})`}>
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
