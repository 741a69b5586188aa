import { Minus, Plus } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { usePullKey } from "../../../parts/usePullKey";
import type { Act } from "./acts";
import { happened } from "./acts";
import type { Recorder } from "./recorder";
import { usePresses } from "./usePresses";

type Props = { sheet: Schemas["RunSheet"]; now: Schemas["Now"]; recorder: Recorder; blocked: boolean };

/** What was done to the setting: as proposed, another amount, or nothing. */
export function AdjustKeys({ sheet, now, recorder, blocked }: Props) {
  const { prompt } = now;
  const { press, record } = usePresses({ sheet, now, recorder, label: null, rung: null });
  const [main, ...others] = prompt.acts;
  const [telling, setTelling] = useState<Act | null>(main?.asks_amount ? main : null);
  usePullKey(blocked || telling || !main ? null : () => press(main));
  if (!main) return null;
  if (telling && prompt.advised) {
    return (
      <Amount
        advised={prompt.advised}
        say={telling.say}
        onBack={main.asks_amount ? null : () => setTelling(null)}
        onSay={(adjusted) => {
          record({ ...happened(telling, sheet, prompt, null), adjusted });
          setTelling(null);
        }}
      />
    );
  }
  return (
    <div className="flex flex-wrap gap-2">
      {others.map((act) => (
        <button
          key={act.say}
          type="button"
          className="btn bg-base-100 border-base-content/40 h-auto min-h-16 flex-1 py-2 text-lg max-sm:text-base"
          onClick={() => (act.asks_amount ? setTelling(act) : press(act))}
        >
          {act.say}
        </button>
      ))}
      <button
        type="button"
        className={`btn btn-primary min-h-28 flex-2 flex-col gap-0 text-2xl ${recorder.busy ? "opacity-60" : ""}`}
        onClick={() => press(main)}
      >
        {main.say}
        <span className="text-base">tap, space bar or foot switch</span>
      </button>
    </div>
  );
}

type AmountProps = {
  advised: Schemas["Advised"];
  say: string;
  onBack: (() => void) | null;
  onSay: (adjusted: Schemas["Adjusted"]) => void;
};

/** How far, or where to: typed, or by keys of a step. */
function Amount({ advised, say, onBack, onSay }: AmountProps) {
  const { adds_up, step, unit, proposal } = advised;
  const digits = step < 1 ? 3 : 0;
  const start = adds_up ? (proposal?.by ?? 0) : (proposal?.to ?? advised.at);
  const [typed, setTyped] = useState(start === 0 ? "" : start.toFixed(digits));
  const figure = Number(typed.replace(",", "."));
  const by = (many: number) => setTyped(((Number.isFinite(figure) ? figure : 0) + many * step).toFixed(digits));
  const way = adds_up && figure !== 0 ? (figure > 0 ? advised.more : advised.less) : "";
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onSay(adds_up ? { by: figure, to: null } : { by: null, to: figure });
      }}
    >
      <button type="button" className="btn size-16" aria-label="less" onClick={() => by(-1)}>
        <Minus aria-hidden="true" />
      </button>
      <label className="flex flex-col">
        <span className="text-sm">
          {advised.setting}, {unit}
        </span>
        <input
          className="input bg-base-100 w-40 text-center text-2xl"
          inputMode="decimal"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      </label>
      <button type="button" className="btn size-16" aria-label="more" onClick={() => by(1)}>
        <Plus aria-hidden="true" />
      </button>
      <button
        type="submit"
        className="btn btn-primary min-h-20 flex-1 text-xl"
        disabled={typed === "" || !Number.isFinite(figure) || (!adds_up && figure <= 0)}
      >
        {say}: {typed || "…"} {unit} {way}
      </button>
      {onBack && (
        <button type="button" className="btn min-h-20" onClick={onBack}>
          Back
        </button>
      )}
    </form>
  );
}
