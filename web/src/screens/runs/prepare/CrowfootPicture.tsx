import { useRef } from "react";

type Props = { lever: number; length: number; angle: number; onAngle: (angle: number) => void };

const SNAP = 5;
const LEAST_DRAWN = 24;
const TOP = 40;
const TALL = 220;

/** A crowfoot on the wrench's end, to scale with the handle; its angle is dragged. */
export function CrowfootPicture({ lever, length, angle, onAngle }: Props) {
  const picture = useRef<SVGSVGElement>(null);
  const drive = { x: 40 + (lever / (lever + 120)) * 400, y: 150 };
  const reach = Math.max((length * (drive.x - 40)) / lever, LEAST_DRAWN);
  const radians = (angle * Math.PI) / 180;
  const end = { x: drive.x + reach * Math.cos(radians), y: drive.y - reach * Math.sin(radians) };
  const drag = (event: React.PointerEvent<SVGSVGElement>) => {
    if (event.buttons === 0 || !picture.current) return;
    const box = picture.current.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * 600 - drive.x;
    const y = drive.y - TOP - ((event.clientY - box.top) / box.height) * TALL;
    const turned = Math.round((Math.atan2(y, x) * 180) / Math.PI / SNAP) * SNAP;
    onAngle(Math.min(Math.max(turned, 0), 180));
  };
  return (
    <svg
      ref={picture}
      viewBox={`0 ${TOP} 600 ${TALL}`}
      className="w-full max-w-2xl cursor-grab touch-none"
      role="img"
      aria-label={`crowfoot of ${length} mm at ${angle} degrees on a handle of ${lever} mm`}
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
      <rect x={14} y={drive.y - 11} width={52} height={22} rx={11} className="fill-base-content/20" />
      <circle cx={40} cy={drive.y} r={9} className="fill-primary" />
      <text x={40} y={drive.y + 40} textAnchor="middle" fontSize={16} className="fill-base-content">
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
      <text x={end.x} y={end.y - 28} textAnchor="middle" fontSize={18} fontWeight={700} className="fill-base-content">
        {angle}°
      </text>
    </svg>
  );
}
