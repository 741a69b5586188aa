import type { Schemas } from "../../api/client";
import { STATE_WORDS, StateMark } from "../../parts/StateMark";

type Row = Schemas["EngineRow"];
type Props = { rows: readonly Row[]; cylinders: number; chosen: string | null; onChoose: (site: string) => void };

const WIDE = 420;
const AT: Record<Exclude<Row["site"], "">, { x: number; y: number; w: number; h: number; say: string }> = {
  top: { x: 80, y: 10, w: 260, h: 86, say: "head and what stands on it" },
  middle: { x: 80, y: 104, w: 260, h: 104, say: "block" },
  bottom: { x: 80, y: 216, w: 260, h: 86, say: "caps and sump" },
  front: { x: 10, y: 104, w: 62, h: 150, say: "front end" },
  rear: { x: 348, y: 104, w: 62, h: 150, say: "rear end" },
};

/** An engine from its side, its front on the left: head, block, caps and sump as places to touch. */
export function EnginePicture({ rows, cylinders, chosen, onChoose }: Props) {
  const bores = Array.from({ length: cylinders }, (_, bore) => bore);
  return (
    <svg viewBox={`0 0 ${WIDE} 312`} className="w-full max-w-md" role="group" aria-label="the engine from its side">
      {Object.entries(AT).map(([site, at]) => {
        const row = rows.find((each) => each.site === site);
        const common = { x: at.x, y: at.y, width: at.w, height: at.h, rx: 8, strokeWidth: 3 };
        if (!row) return <rect key={site} {...common} className="fill-base-200 stroke-base-content/30" />;
        return (
          <g
            key={site}
            role="button"
            tabIndex={0}
            aria-pressed={chosen === site}
            aria-label={`${at.say}: ${STATE_WORDS[row.state]}`}
            className="group cursor-pointer focus:outline-none"
            onClick={() => onChoose(site)}
            onKeyDown={(event) => (event.key === "Enter" || event.key === " ") && onChoose(site)}
          >
            <rect
              {...common}
              className={`fill-base-200 ${chosen === site ? "stroke-primary" : "stroke-base-content/50"} group-focus-visible:stroke-base-content`}
              strokeWidth={chosen === site ? 7 : 3}
            />
            <StateMark
              state={row.state}
              x={at.x + at.w / 2}
              y={at.y + at.h / 2}
              size={50}
              label={String(row.joints.length)}
            />
          </g>
        );
      })}
      {bores.map((bore) => (
        <path
          key={bore}
          d={`M ${96 + (bore + 0.5) * (228 / cylinders)} 108 v 22`}
          className="stroke-base-content/40"
          strokeWidth={10}
        />
      ))}
    </svg>
  );
}
