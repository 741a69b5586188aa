import type { Schemas } from "../../../api/client";
import type { Act } from "./acts";

type Props = { prompt: Schemas["Prompt"]; look: string; onPress: (act: Act) => void };

/** The options of a task, each a key; the one that a reading proposes stands out. */
export function ChoiceKeys({ prompt, look, onPress }: Props) {
  return (
    <fieldset className="flex flex-wrap gap-2" aria-label="choose">
      {prompt.acts.map((act) => (
        <button
          key={act.option}
          type="button"
          className={`${look} ${act.option === prompt.proposed ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
          onClick={() => onPress(act)}
        >
          {act.say}
          {act.option === prompt.proposed && <span className="text-base">by the reading, {prompt.value}</span>}
        </button>
      ))}
    </fieldset>
  );
}
