import { useRef } from "react";
import { Field } from "../../parts/Field";

export type Crowfoot = { length: string; angle: number };

type Props = {
  lever: number;
  value: Crowfoot;
  notes: readonly string[];
  onChange: (crowfoot: Crowfoot) => void;
};

const SNAP = 5;
const LEAST_DRAWN = 24;

/** A crowfoot on the wrench's end, drawn to scale with the handle; its angle is dragged, or moved by arrow keys. */
export function CrowfootPanel({ lever, value, notes, onChange }: Props) {
  const picture = useRef<SVGSVGElement>(null);
  const length = Number(value.length) || 0;
  const drive = { x: 40 + (lever / (lever + 120)) * 400, y: 150 };
  const perMm = (drive.x - 40) / lever;
  const reach = Math.max(length * perMm, LEAST_DRAWN);
  const radians = (value.angle * Math.PI) / 180;
  const end = { x: drive.x + reach * Math.cos(radians), y: drive.y - reach * Math.sin(radians) };
  const drag = (event: React.PointerEvent<SVGSVGElement>) => {
    if (event.buttons === 0 || !picture.current) return;
    const box = picture.current.getBoundingClientRect();
    const at = {
      x: ((event.clientX - box.left) / box.width) * 600 - drive.x,
      y: drive.y - ((event.clientY - box.top) / box.height) * 300,
    };
    const angle = Math.round((Math.atan2(at.y, at.x) * 180) / Math.PI / SNAP) * SNAP;
    onChange({ ...value, angle: Math.min(Math.max(angle, 0), 180) });
  };
  return (
    <section aria-label="crowfoot" className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-4">
        <Field
          label="Crowfoot, mm"
          hint="from the drive to the middle of the fastener; empty for none"
          inputMode="decimal"
          value={value.length}
          onChange={(event) => onChange({ ...value, length: event.target.value })}
        />
        <label className="flex flex-col gap-1">
          <span className="font-bold">Angle to the handle: {value.angle}°</span>
          <input
            type="range"
            className="range range-primary"
            min={0}
            max={180}
            step={SNAP}
            value={value.angle}
            onChange={(event) => onChange({ ...value, angle: Number(event.target.value) })}
          />
        </label>
      </div>
      {length > 0 && (
        <svg
          ref={picture}
          viewBox="0 0 600 300"
          className="w-full max-w-2xl cursor-grab touch-none"
          role="img"
          aria-label={`crowfoot of ${length} mm at ${value.angle} degrees on a handle of ${lever} mm`}
          onPointerDown={drag}
          onPointerMove={drag}
        >
          <line
            x1={drive.x}
            x2={590}
            y1={drive.y}
            y2={drive.y}
            className="stroke-base-content/60"
            strokeDasharray="6 6"
            strokeWidth={2}
          />
          <rect
            x={10}
            y={drive.y - 14}
            width={drive.x - 10}
            height={28}
            rx={14}
            className="fill-base-200 stroke-base-content"
            strokeWidth={2}
          />
          <circle cx={40} cy={drive.y} r={10} className="fill-primary" />
          <text x={40} y={drive.y + 42} textAnchor="middle" fontSize={16} className="fill-base-content">
            hand
          </text>
          <line
            x1={drive.x}
            y1={drive.y}
            x2={end.x}
            y2={end.y}
            className="stroke-primary"
            strokeWidth={16}
            strokeLinecap="round"
          />
          <rect x={drive.x - 9} y={drive.y - 9} width={18} height={18} className="fill-base-content" />
          <circle cx={end.x} cy={end.y} r={20} className="fill-base-100 stroke-primary" strokeWidth={5} />
        </svg>
      )}
      {notes.map((note) => (
        <p key={note} className="text-lg">
          {note}
        </p>
      ))}
    </section>
  );
}
