import type { Schemas } from "../api/client";

export type JointState = Schemas["JointAt"]["state"] | Schemas["MachineInBay"]["state"];

/** How a joint stands, in words. */
export const STATE_WORDS: Record<JointState, string> = {
  "do not move": "do not move",
  overdue: "re-torque overdue",
  due: "re-torque due",
  "in doubt": "in doubt",
  open: "not finished",
  "to come": "re-torque to come",
  done: "done",
  "never recorded": "never recorded",
};

const ring = (sides: number, radius: number, turn: number) =>
  Array.from({ length: sides }, (_, side) => {
    const angle = ((side + turn) / sides) * 2 * Math.PI;
    return `${(radius * Math.sin(angle)).toFixed(1)},${(-radius * Math.cos(angle)).toFixed(1)}`;
  }).join(" ");

type Props = { state: JointState; x?: number; y?: number; size: number; label: string };

/** Draws a state with a label inside. Each state has its own shape, so that it can be told without colour. */
export function StateMark({ state, x = 0, y = 0, size, label }: Props) {
  const r = size / 2;
  const line = size * 0.07;
  const dark = {
    "do not move": "fill-error-content",
    "in doubt": "fill-warning-content",
    overdue: "fill-warning-content",
    due: "fill-warning-content",
  };
  const text =
    state === "done" ? "fill-success-content" : state in dark ? dark[state as keyof typeof dark] : "fill-base-content";
  return (
    <g transform={`translate(${x} ${y})`}>
      {state === "do not move" && <polygon points={ring(8, r, 0.5)} className="fill-error" />}
      {state === "overdue" && (
        <polygon points={ring(4, r * 1.12, 0)} className="fill-warning stroke-base-content" strokeWidth={line * 1.6} />
      )}
      {state === "due" && <polygon points={ring(4, r * 1.08, 0.5)} className="fill-warning" />}
      {state === "in doubt" && (
        <polygon points={ring(3, r * 1.2, 0)} className="fill-warning stroke-base-content" strokeWidth={line} />
      )}
      {state === "to come" && (
        <circle r={r * 0.9} className="fill-none stroke-base-content/60" strokeWidth={line * 0.6} />
      )}
      {state === "open" && (
        <>
          <circle r={r * 0.94} className="fill-base-100 stroke-primary" strokeWidth={line} />
          <path d={`M 0 ${-r * 0.94} A ${r * 0.94} ${r * 0.94} 0 0 0 0 ${r * 0.94} Z`} className="fill-primary/30" />
        </>
      )}
      {state === "done" && <circle r={r * 0.94} className="fill-success" />}
      {state === "never recorded" && (
        <circle
          r={r * 0.9}
          className="fill-base-100 stroke-base-content/60"
          strokeWidth={line}
          strokeDasharray={`${size * 0.16} ${size * 0.1}`}
        />
      )}
      <text
        className={text}
        fontSize={size * 0.46}
        fontWeight={700}
        textAnchor="middle"
        dominantBaseline="central"
        aria-hidden="true"
      >
        {label}
      </text>
    </g>
  );
}

/** The same mark beside a line of text. */
export function StateIcon({ state, label = "" }: { state: JointState; label?: string }) {
  return (
    <svg viewBox="-52 -52 104 104" className="h-10 w-10 shrink-0" role="img" aria-label={STATE_WORDS[state]}>
      <StateMark state={state} size={84} label={label} />
    </svg>
  );
}
