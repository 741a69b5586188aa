import { Minus, Plus } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { Keypad } from "../../../parts/Keypad";
import { usePullKey } from "../../../parts/usePullKey";
import { nameOf, pullFor } from "./acts";
import type { Recorder } from "./recorder";
import { measured, type ReadingNow } from "./useReading";

type Props = { now: Schemas["Now"]; recorder: Recorder; label: string | null; reading: ReadingNow };

/** The one thing to do now: take the reading as it should be, then say what is seen. */
export function MeasureKeys({ now, recorder, label, reading }: Props) {
  const { prompt } = now;
  const { gauge } = reading;
  const [keys, setKeys] = useState(false);
  usePullKey(reading.ready ? null : reading.confirm);
  if (!reading.ready && prompt.method) {
    return (
      <div className="flex flex-wrap items-stretch gap-2">
        <GaugeChoice reading={reading} />
        <button
          type="button"
          className="btn btn-primary min-h-28 flex-2 flex-col gap-0 text-2xl max-sm:text-xl"
          onClick={reading.confirm}
        >
          {prompt.method.done}
          <span className="text-base">tap, space bar or foot switch; then the reading</span>
        </button>
      </div>
    );
  }
  const seen = reading.needle;
  const name = nameOf(now, label);
  const by = (marks: number) => {
    if (!gauge) return;
    if (gauge.divisions && seen) {
      const all = Math.max(0, seen.turns * gauge.divisions + seen.marks + marks);
      reading.turn({ turns: Math.floor(all / gauge.divisions), marks: all % gauge.divisions });
    } else if (gauge.divisions && reading.figure === "") reading.turn({ turns: 0, marks: Math.max(0, marks) });
    else reading.type(Math.max(0, Number(reading.figure) + marks * gauge.graduation).toFixed(digits(gauge.graduation)));
  };
  const shown = seen ? `${seen.turns ? `${seen.turns} turn and ` : ""}${seen.marks} marks` : reading.figure || "…";
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        recorder.record({ ...measured(prompt, reading, pullFor(prompt, label), label), claimed_seq: now.seq + 1 });
      }}
    >
      <GaugeChoice reading={reading} />
      {gauge && (
        <button type="button" className="btn size-16" aria-label="one mark less" onClick={() => by(-1)}>
          <Minus aria-hidden="true" />
        </button>
      )}
      {keys ? (
        <Keypad label={`reading, ${reading.unit}`} decimal ready value={reading.figure} onChange={reading.type} />
      ) : (
        <label className="flex flex-col">
          <span className="text-sm">reading, {reading.unit}</span>
          <input
            // biome-ignore lint/a11y/noAutofocus: it waits for digits only
            autoFocus
            className="input bg-base-100 h-16 w-36 text-center text-3xl"
            inputMode="decimal"
            autoComplete="off"
            value={reading.figure}
            placeholder={seen ? "dial" : ""}
            onChange={(event) => reading.type(event.target.value.replace(",", ".").replace(/[^0-9.]/g, ""))}
          />
        </label>
      )}
      {gauge && (
        <button type="button" className="btn size-16" aria-label="one mark more" onClick={() => by(1)}>
          <Plus aria-hidden="true" />
        </button>
      )}
      {reading.asksRadius && (
        <label className="flex flex-col">
          <span className="text-sm">{gauge?.needs_radius ? "at which radius, mm" : "tip at, mm"}</span>
          <input
            className="input bg-base-100 h-16 w-28 text-center text-2xl"
            inputMode="decimal"
            value={reading.radius}
            placeholder={prompt.circle_mm != null ? String(prompt.circle_mm) : ""}
            onChange={(event) => reading.setRadius(event.target.value.replace(",", ".").replace(/[^0-9.]/g, ""))}
          />
        </label>
      )}
      <button type="button" className="btn min-h-16" aria-pressed={keys} onClick={() => setKeys(!keys)}>
        {keys ? "No keys" : "Keys"}
      </button>
      <button type="submit" className="btn btn-primary min-h-20 flex-1 text-xl" disabled={!reading.whole}>
        {name ? `${name} read` : "Read"} {shown} {seen ? "" : reading.unit}
      </button>
    </form>
  );
}

const digits = (graduation: number) => Math.max(0, Math.min(4, -Math.floor(Math.log10(graduation) + 1e-9)));

/** With what it is read; what is refused says why. */
function GaugeChoice({ reading }: { reading: ReadingNow }) {
  const { gauge, gauges, refused } = reading;
  if (gauges.length + refused.length === 0) return <Units reading={reading} />;
  return (
    <>
      <label className="flex max-w-64 flex-col">
        <span className="text-sm">{gauge ? gauge.words : "read with"}</span>
        <select
          aria-label="read with"
          className="select bg-base-100 h-16 text-lg"
          value={gauge?.id ?? ""}
          onChange={(event) => reading.pick(event.target.value || null)}
        >
          {gauges.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
          {refused.map((each) => (
            <option key={each.id} disabled>
              {each.name}: {each.words}
            </option>
          ))}
          <option value="">another one, not in the crib</option>
        </select>
      </label>
      {!gauge && <Units reading={reading} />}
    </>
  );
}

function Units({ reading }: { reading: ReadingNow }) {
  if (reading.units.length < 2) return null;
  return (
    <fieldset className="flex gap-1">
      <legend className="text-sm">unit</legend>
      {reading.units.map((each) => (
        <button
          key={each}
          type="button"
          aria-pressed={each === reading.unit}
          className={`btn h-16 ${each === reading.unit ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
          onClick={() => reading.setUnit(each)}
        >
          {each}
        </button>
      ))}
    </fieldset>
  );
}
