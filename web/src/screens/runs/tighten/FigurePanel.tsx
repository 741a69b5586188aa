import { RotateCcw, RotateCw } from "lucide-react";
import { useEffect, useReducer } from "react";
import type { Schemas } from "../../../api/client";
import { secondsSince } from "../../../core/serverClock";
import { Flagged } from "../../../parts/Flagged";
import { figure, inOneLine, limits } from "../../../parts/format";
import { ScalePicture } from "../../../parts/ScalePicture";

type Props = {
  now: Schemas["Now"];
  /** What the fastener is called that is pulled now. */
  name: string;
  out: boolean;
  tool: string | undefined;
  rung: string | null;
  onRung: (rung: string | null) => void;
};

/** The figure that matters now, readable at two metres. */
export function FigurePanel({ now, name, out, tool, rung, onRung }: Props) {
  const { prompt } = now;
  if (prompt.ask === "finish") {
    return (
      <section aria-label="now" className="flex flex-col justify-center gap-3">
        <p className="text-5xl font-bold">{now.clean ? "All done." : "Done, but not good."}</p>
        {now.reasons.map((reason) => (
          <p key={reason} className="text-xl">
            {reason}
          </p>
        ))}
      </section>
    );
  }
  if (prompt.ask === "set") return <SetTo now={now} tool={tool} />;
  if (prompt.fastener === null && !prompt.band) {
    return (
      <section aria-label="now" className="flex flex-col justify-center gap-3">
        <p className="text-4xl leading-tight font-bold lg:text-5xl">{prompt.say || prompt.stage}</p>
        {prompt.amount && <p className="text-5xl font-bold">{prompt.amount}</p>}
        <Times prompt={prompt} />
        <p className="text-xl">then {prompt.then}</p>
      </section>
    );
  }
  const Turn = prompt.clockwise ? RotateCw : RotateCcw;
  return (
    <section aria-label="now" className="flex flex-col justify-center">
      <p className="text-base-content/80 text-xl">
        {[inOneLine(prompt.stage, prompt.tooling != null ? tool : ""), prompt.say].filter(Boolean).join(", ")}
      </p>
      <Figure prompt={prompt} />
      <Times prompt={prompt} />
      {prompt.watch && <p className="text-xl">{prompt.watch}</p>}
      {prompt.ladder.length > 0 && (
        <div className="flex flex-wrap gap-2 py-2">
          {prompt.ladder.map((step) => {
            const on = rung === null ? step.picked : rung === step.key;
            return (
              <button
                key={step.key}
                type="button"
                aria-pressed={on}
                className={`btn ${on ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
                onClick={() => onRung(step.picked ? null : step.key)}
              >
                {step.figure.figure} {step.figure.unit}
              </button>
            );
          })}
        </div>
      )}
      {name && (
        <p className="mt-3 flex items-center gap-3 text-3xl font-bold">
          {name}
          <span className="flex items-center gap-2 text-xl font-normal">
            <Turn aria-hidden="true" /> {prompt.turn}
          </span>
        </p>
      )}
      {prompt.hold && <p className="text-xl font-bold">Hold against it: {prompt.hold}</p>}
      {prompt.together.length > 0 && <p className="text-xl">together with {prompt.together.join(", ")}</p>}
      {out ? (
        <p className="text-xl">out of order: the next in order is {prompt.name}</p>
      ) : (
        <p className="text-base-content/80 text-xl">
          {prompt.upcoming.length > 0 ? `then ${prompt.upcoming.slice(0, 3).join(" · ")}` : `then ${prompt.then}`}
        </p>
      )}
      {prompt.meanwhile && <p className="text-xl">meanwhile: {prompt.meanwhile}</p>}
      <Flagged verdicts={now.verdicts} />
    </section>
  );
}

/** The wrench at the mark that it is to be set to, before the pulls that need it. */
function SetTo({ now, tool }: { now: Schemas["Now"]; tool: string | undefined }) {
  const { prompt } = now;
  if (!prompt.scale) return null;
  return (
    <section aria-label="now" className="flex min-h-0 flex-col justify-center gap-3 overflow-y-auto">
      <p className="text-base-content/80 text-xl">
        {prompt.stage} {tool && ` · ${tool}`}
      </p>
      <p className="flex items-baseline gap-3 text-6xl leading-none font-bold">
        <span className="text-4xl">Set it to</span>
        <span data-testid="figure">{prompt.scale.figure}</span>
        <span className="text-4xl">{prompt.scale.unit}</span>
      </p>
      <ScalePicture
        key={`${prompt.scale.unit}${prompt.scale.figure}`}
        scale={prompt.scale}
        construction={prompt.construction as Schemas["Wrench"]["construction"]}
        face={prompt.face as Schemas["Wrench"]["face"]}
      />
      <p className="text-2xl font-bold">{prompt.scale.words}</p>
      <ol className="list-decimal pl-6">
        {prompt.scale.steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </ol>
    </section>
  );
}

const LARGE = "text-[clamp(6rem,24vmin,15rem)] max-sm:text-[4.5rem]";

/** The torque, the degrees that are left, the band that is measured against, or how far to go by hand. */
function Figure({ prompt }: { prompt: Schemas["Prompt"] }) {
  if (prompt.angle) {
    return (
      <>
        <p className="flex items-baseline gap-3 leading-none font-bold">
          <span data-testid="figure" className={LARGE}>
            {prompt.degrees_left}°
          </span>
          {prompt.degrees_done > 0 && <span className="text-4xl">left</span>}
        </p>
        <p className="text-2xl">
          {prompt.angle.low}–{prompt.angle.high}°{prompt.degrees_done > 0 && `, ${prompt.degrees_done}° done`}
          {prompt.windup_deg >= 0.5 && `, and ${prompt.windup_deg.toFixed(1)}° of windup at the handle`}
        </p>
      </>
    );
  }
  if (!prompt.figure) return <p className="text-5xl leading-tight font-bold">{prompt.amount || prompt.say}</p>;
  const shown = prompt.figure;
  return (
    <>
      <p className="flex items-baseline gap-3 leading-none font-bold">
        <span
          data-testid="figure"
          className={shown.figure.length > 3 ? LARGE : "text-[clamp(7rem,27vmin,16rem)] max-sm:text-[5.5rem]"}
        >
          {shown.figure}
        </span>
        <span className="text-5xl">{shown.unit}</span>
      </p>
      <p className="text-2xl">
        {limits(shown)} <span className="text-base-content/80 text-lg">{prompt.also.map(figure).join(" · ")}</span>
      </p>
    </>
  );
}

/** What the clock has to say: not yet, or how long there is. */
function Times({ prompt }: { prompt: Schemas["Prompt"] }) {
  const [, tick] = useReducer((ticks: number) => ticks + 1, 0);
  const timed = prompt.wait !== null || prompt.limit !== null;
  useEffect(() => {
    if (!timed) return;
    const ticking = setInterval(tick, 1_000);
    return () => clearInterval(ticking);
  }, [timed]);
  const left = (time: Schemas["RunningTime"]) => Math.round(time.seconds - secondsSince(time));
  const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
  const wait = prompt.wait ? left(prompt.wait) : 0;
  const rest = prompt.limit ? left(prompt.limit) : null;
  if (wait > 0)
    return <p className="border-warning border-l-8 pl-3 text-3xl font-bold">not for another {clock(wait)}</p>;
  if (rest === null) return null;
  if (rest < 0) return <p className="border-error border-l-8 pl-3 text-3xl font-bold">the time for this is over</p>;
  return <p className="text-3xl font-bold">{clock(rest)} left for this</p>;
}
