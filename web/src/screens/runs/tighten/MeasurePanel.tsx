import type { Schemas } from "../../../api/client";
import { BandBar } from "../../../parts/BandBar";
import { Dial } from "../../../parts/Dial";
import { Flagged } from "../../../parts/Flagged";
import { JointPicture } from "../../../parts/JointPicture";
import { TriesPicture } from "../../../parts/TriesPicture";
import type { Needle } from "./useLine";
import type { ReadingNow } from "./useReading";

type Prompt = Schemas["Prompt"];

/** What stands in front of the mechanic: the dial or the scale with the band on it, and where it stands. */
export function GaugePicture({ prompt, reading, live }: { prompt: Prompt; reading: ReadingNow; live: Needle | null }) {
  const { gauge, needle } = reading;
  if (live) {
    const high = prompt.advised?.high ?? live.figure;
    const same = gauge?.unit === live.unit ? gauge : null;
    const graduation = same?.graduation ?? (live.unit === "mm" ? 0.01 : 0.1);
    const divisions = same ? same.divisions : live.unit === "mm" ? 100 : null;
    return divisions ? (
      <Dial
        {...{ graduation, divisions, unit: live.unit, figure: live.figure }}
        low={prompt.advised?.low ?? null}
        high={prompt.advised?.high ?? null}
      />
    ) : (
      <BandBar {...{ graduation, unit: live.unit, figure: live.figure, high }} low={prompt.advised?.low ?? 0} />
    );
  }
  if (!gauge) return <JointPicture prompt={prompt} />;
  const figure = needle
    ? (needle.turns * (gauge.divisions ?? 1) + needle.marks) * gauge.graduation
    : Number(reading.figure) || 0;
  if (gauge.divisions) {
    const divisions = gauge.divisions;
    return (
      <Dial
        {...{ divisions, figure, graduation: gauge.graduation, unit: gauge.unit, low: gauge.low, high: gauge.high }}
        onTurn={(to) => {
          const marks = Math.round(to / gauge.graduation);
          reading.turn({ turns: Math.floor(marks / divisions), marks: marks % divisions });
        }}
      />
    );
  }
  return <BandBar {...{ figure, unit: gauge.unit, graduation: gauge.graduation, low: gauge.low, high: gauge.high }} />;
}

/** What is read and how, what was read already, and the tries so far. */
export function MeasurePanel({ now, name, reading }: { now: Schemas["Now"]; name: string; reading: ReadingNow }) {
  const { prompt } = now;
  return (
    <section aria-label="now" className="flex min-h-0 flex-col gap-2 overflow-y-auto">
      <p className="text-3xl font-bold">{[name, prompt.measure].filter(Boolean).join(": ")}</p>
      {prompt.band && (
        <p className="flex flex-wrap items-baseline gap-3 text-5xl font-bold">
          {prompt.band.low}–{prompt.band.high} <span className="text-3xl">{prompt.band.unit}</span>
          {reading.gauge?.needle && <span className="text-xl font-normal">{reading.gauge.needle}</span>}
        </p>
      )}
      {prompt.readings_of > 1 && (
        <p className="text-2xl">
          reading {prompt.readings_done + 1} of {prompt.readings_of}
          {prompt.readings.length > 0 && <span className="text-xl"> · so far {prompt.readings.join(", ")}</span>}
        </p>
      )}
      {prompt.method && <p className="border-primary border-l-8 pl-3 text-xl">{prompt.method.before}</p>}
      {prompt.say && <p className="text-xl">{prompt.say}</p>}
      {prompt.advised && (
        <div className="flex min-h-52 flex-1 gap-2 max-sm:hidden">
          {prompt.advised.tries.length > 0 && (
            <div className="min-w-0 flex-5">
              <TriesPicture advised={prompt.advised} low />
            </div>
          )}
          {reading.gauge && (
            <div className="min-w-0 flex-1">
              <JointPicture prompt={prompt} />
            </div>
          )}
        </div>
      )}
      <Flagged verdicts={now.verdicts} />
    </section>
  );
}
