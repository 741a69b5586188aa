import type { Schemas } from "../../../api/client";
import { usePullKey } from "../../../parts/usePullKey";
import { nameOf, says } from "./acts";
import { ChoiceKeys } from "./ChoiceKeys";
import type { Recorder } from "./recorder";
import { StopForm } from "./StopForm";
import { usePresses } from "./usePresses";

type Props = {
  sheet: Schemas["RunSheet"];
  now: Schemas["Now"];
  recorder: Recorder;
  label: string | null;
  blocked: boolean;
  /** A figure of the ladder that was chosen instead of the one that comes by itself. */
  rung: string | null;
  onEnd: () => void;
};

const LOOK = "btn min-h-28 flex-1 text-3xl max-sm:min-h-24 max-sm:text-2xl landscape:min-h-32";

/** Under the words of the main key: what a press does now. */
function Foot({ recorder }: { recorder?: Recorder }) {
  const does = recorder?.away ? "sends the last one again" : recorder?.busy ? "the last one is being sent" : null;
  return <span className="text-base">{does ?? "tap, space bar or foot switch"}</span>;
}

/** A key for each thing that can have happened; the space bar and a foot switch press the main one. */
export function PullKeys({ sheet, now, recorder, label, blocked, rung, onEnd }: Props) {
  const { prompt } = now;
  const { press, record, pressed } = usePresses({ sheet, now, recorder, label, rung });
  const [main, ...others] = prompt.acts;
  const choosing = prompt.ask === "choose";
  const pull = prompt.ask === "finish" ? onEnd : main && !choosing ? () => press(main) : null;
  usePullKey(blocked ? null : pull);
  if (prompt.ask === "stop") {
    const decide = (text: string) => record({ kind: "deviated", pull: prompt.pull ?? null, text });
    return <StopForm say={prompt.say} onDecide={decide} onEnd={onEnd} />;
  }
  if (prompt.ask === "finish") {
    return (
      <button type="button" className={`${LOOK} btn-primary flex-col gap-0`} onClick={onEnd}>
        Finish
        <Foot />
      </button>
    );
  }
  if (!main) return null;
  if (choosing) return <ChoiceKeys prompt={prompt} look={LOOK} onPress={press} />;
  const quiet = recorder.busy ? "opacity-60" : "";
  const name = nameOf(now, label);
  return (
    <div className="flex gap-2">
      {others.map((act) => (
        <button
          key={act.say}
          type="button"
          className={`${LOOK} border-success bg-base-100 border-4 ${quiet}`}
          onClick={() => press(act)}
        >
          {says(act, name)}
        </button>
      ))}
      <button
        key={pressed}
        type="button"
        className={`${LOOK} btn-primary flex-col gap-0 ${quiet} ${pressed ? "pressed" : ""}`}
        onClick={() => press(main)}
      >
        {says(main, name)}
        <Foot recorder={recorder} />
      </button>
    </div>
  );
}
