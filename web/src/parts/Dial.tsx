import { type PointerEvent, useRef } from "react";

type Props = {
  /** What one mark stands for, and how many there are in one revolution. */
  graduation: number;
  divisions: number;
  unit: string;
  figure: number;
  /** The band, in the unit of the dial. */
  low: number | null;
  high: number | null;
  /** The needle is dragged to a figure. */
  onTurn?: (figure: number) => void;
};

const TURN = 2 * Math.PI;
const at = (share: number, radius: number): [number, number] => [
  radius * Math.sin(share * TURN),
  -radius * Math.cos(share * TURN),
];
const arc = (from: number, to: number, radius: number) => {
  const [x, y] = at(from, radius);
  const [toX, toY] = at(to, radius);
  return `M ${x} ${y} A ${radius} ${radius} 0 ${to - from > 0.5 ? 1 : 0} 1 ${toX} ${toY}`;
};

/** A dial as it stands in front of the mechanic: marks, needle, whole turns, the band on it. */
export function Dial({ graduation, divisions, unit, figure, low, high, onTurn }: Props) {
  const drawn = useRef<SVGSVGElement>(null);
  const marks = figure / graduation;
  const turns = Math.trunc(marks / divisions + 1e-9);
  const many = divisions > 60 ? divisions / 50 : 1;
  const banded = low !== null && high !== null && (high - low) / graduation < divisions;
  const turned = (event: PointerEvent) => {
    const box = drawn.current?.getBoundingClientRect();
    if (!onTurn || !box || event.buttons === 0) return;
    const [x, y] = [event.clientX - box.left - box.width / 2, event.clientY - box.top - box.height / 2];
    const place = Math.round(((Math.atan2(x, -y) / TURN + 1) % 1) * divisions);
    const here = marks - turns * divisions;
    const round = place - here > divisions / 2 ? -1 : here - place > divisions / 2 ? 1 : 0;
    onTurn(Math.max(0, (turns + round) * divisions + place) * graduation);
  };
  return (
    <svg
      ref={drawn}
      viewBox="-120 -120 240 240"
      className={`h-full w-full ${onTurn ? "cursor-grab touch-none" : ""}`}
      role="img"
      aria-label={`dial: ${turns} turns and ${(marks - turns * divisions).toFixed(1)} marks of ${graduation} ${unit}`}
      onPointerDown={turned}
      onPointerMove={turned}
    >
      <circle r={112} className="fill-base-100 stroke-base-content" strokeWidth={3} />
      {banded && (
        <path
          d={arc(low / graduation / divisions, high / graduation / divisions, 84)}
          className="stroke-success/45 fill-none"
          strokeWidth={22}
        />
      )}
      {Array.from({ length: Math.round(divisions / many) }, (_, mark) => mark * many).map((mark) => {
        const long = Math.round(mark) % Math.round(divisions / 10) === 0;
        const [x, y] = at(mark / divisions, 108);
        const [inX, inY] = at(mark / divisions, long ? 94 : 101);
        return (
          <line
            key={mark}
            x1={x}
            y1={y}
            x2={inX}
            y2={inY}
            className="stroke-base-content"
            strokeWidth={long ? 2.5 : 1.2}
          />
        );
      })}
      {Array.from({ length: 10 }, (_, tenth) => tenth).map((tenth) => {
        const [x, y] = at(tenth / 10, 70);
        return (
          <text
            key={tenth}
            x={x}
            y={y + 5}
            textAnchor="middle"
            fontSize={15}
            fontWeight={700}
            className="fill-base-content"
          >
            {Math.round((divisions / 10) * tenth)}
          </text>
        );
      })}
      <text y={36} textAnchor="middle" fontSize={12} className="fill-base-content">
        {graduation} {unit}
      </text>
      <g transform="translate(0 -34)">
        <circle r={14} className="stroke-base-content/60 fill-none" strokeWidth={1.2} />
        <text y={4.5} textAnchor="middle" fontSize={13} fontWeight={700} className="fill-base-content">
          {turns}
        </text>
        <text y={25} textAnchor="middle" fontSize={9} className="fill-base-content">
          turns
        </text>
      </g>
      <g transform={`rotate(${(marks / divisions) * 360})`}>
        <path d="M -4 24 L 0 -100 L 4 24 Z" className="fill-primary" />
      </g>
      <circle r={8} className="fill-base-content" />
    </svg>
  );
}
