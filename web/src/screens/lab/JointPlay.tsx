import { Minus, Pause, Play, Plus } from "lucide-react";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";

const EVERY_MS = 700;

/** A joint played pull by pull, in two orders side by side: each bolt's load as it stands, how far the part leans. */
export function JointPlay({ joints }: { joints: readonly Schemas["JointDrawn"][] }) {
  const most = Math.max(...joints.map((joint) => joint.pulls.length));
  const [chosen, setAt] = useState<number | null>(null);
  const [plays, setPlays] = useState(false);
  const at = Math.min(chosen ?? most, most);
  useEffect(() => {
    if (!plays) return;
    const timer = setInterval(
      () =>
        setAt((before) => {
          const next = (before ?? 0) + 1;
          if (next >= most) setPlays(false);
          return Math.min(next, most);
        }),
      EVERY_MS,
    );
    return () => clearInterval(timer);
  }, [plays, most]);
  const play = () => {
    if (!plays && at >= most) setAt(0);
    setPlays(!plays);
  };
  return (
    <section aria-label="pull by pull" className="flex flex-col gap-2">
      <div className="grid grid-cols-2 gap-4">
        {joints.map((joint, place) => (
          <LoadMap key={`${place === 0 ? "this" : "beside"} ${joint.name}`} joint={joint} at={at} />
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-square size-14" aria-label={plays ? "stop" : "play"} onClick={play}>
          {plays ? <Pause aria-hidden="true" /> : <Play aria-hidden="true" />}
        </button>
        <button
          type="button"
          className="btn btn-square size-14"
          aria-label="one pull back"
          onClick={() => setAt(Math.max(0, at - 1))}
        >
          <Minus aria-hidden="true" />
        </button>
        <label className="flex min-w-40 flex-1 flex-col">
          <span className="sr-only">pulls done</span>
          <input
            type="range"
            className="range range-primary w-full"
            min={0}
            max={most}
            step={1}
            value={at}
            aria-valuetext={`${at} of ${most} pulls`}
            onChange={(event) => setAt(Number(event.target.value))}
          />
        </label>
        <button
          type="button"
          className="btn btn-square size-14"
          aria-label="one pull on"
          onClick={() => setAt(Math.min(most, at + 1))}
        >
          <Plus aria-hidden="true" />
        </button>
        <b className="w-24 text-right text-lg">
          {at} of {most}
        </b>
      </div>
    </section>
  );
}

function LoadMap({ joint, at }: { joint: Schemas["JointDrawn"]; at: number }) {
  const done = Math.min(at, joint.pulls.length);
  const loads = done > 0 ? joint.loads[done - 1] : undefined;
  const lean = done > 0 ? (joint.leans[done - 1] ?? 0) : 0;
  const next = joint.pulls[done];
  const xs = joint.points.map((each) => each.x_mm);
  const ys = joint.points.map((each) => each.y_mm);
  const [wide, high] = [Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)];
  const apart = Math.min(
    ...joint.points.flatMap((a, n) =>
      joint.points.slice(n + 1).map((b) => Math.hypot(a.x_mm - b.x_mm, a.y_mm - b.y_mm)),
    ),
    Math.max(wide, high),
  );
  const r = apart * 0.42;
  const box = `${Math.min(...xs) - 1.4 * r} ${-Math.max(...ys) - 1.4 * r} ${wide + 2.8 * r} ${high + 2.8 * r}`;
  return (
    <figure aria-label={joint.name} className="flex min-w-0 flex-col">
      <figcaption className="flex flex-wrap justify-between gap-x-3">
        <b>{joint.name}</b>
        <span>
          {done > 0 ? `${joint.stages[done - 1]} · ` : ""}leans {lean.toFixed(3)} mm
        </span>
      </figcaption>
      <svg
        viewBox={box}
        className="max-h-64 w-full"
        role="img"
        aria-label={
          loads
            ? joint.points.map(({ label }, n) => `${label}: ${Math.round((loads[n] ?? 0) * 100)}%`).join(", ")
            : "nothing is pulled yet"
        }
      >
        {joint.points.map(({ label, x_mm: x, y_mm: y }, n) => {
          const share = loads?.[n] ?? 0;
          return (
            <g key={label} transform={`translate(${x} ${-y})`}>
              <circle
                r={r}
                className={`fill-base-200 ${label === next ? "stroke-primary" : "stroke-base-content/60"}`}
                strokeWidth={label === next ? r * 0.16 : r * 0.06}
              />
              <circle r={r * 0.94 * Math.sqrt(Math.min(share, 1.1))} className="fill-primary/45" />
              <text y={-r * 0.1} textAnchor="middle" fontSize={r * 0.55} fontWeight={700} className="fill-base-content">
                {label}
              </text>
              <text y={r * 0.5} textAnchor="middle" fontSize={r * 0.5} className="fill-base-content">
                {Math.round(share * 100)}%
              </text>
            </g>
          );
        })}
      </svg>
    </figure>
  );
}
