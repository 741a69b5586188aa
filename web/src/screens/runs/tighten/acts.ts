import type { Schemas } from "../../../api/client";
import { toolsOf } from "./inHand";
import type { Happened } from "./recorder";

type Prompt = Schemas["Prompt"];
export type Act = Schemas["Act"];

/** The pull that an act on a fastener answers: the prompt's own, or the same pass's for one chosen on the map. */
export function pullFor(prompt: Prompt, label: string | null): string | null {
  if (label === prompt.fastener || !prompt.pull) return prompt.pull ?? null;
  return `${prompt.pass_id}:${label}`;
}

/** What a fastener is called, as the prompt or the map says it. */
export function nameOf(now: Schemas["Now"], label: string | null): string {
  if (label === now.prompt.fastener) return now.prompt.name;
  return now.fasteners.find((fastener) => fastener.label === label)?.name ?? "";
}

/** What an act's key says: the fastener's name first, where it is about one. */
export const says = (act: Act, name: string): string => (act.of_fastener && name ? `${name} ${act.say}` : act.say);

const WITH_A_WRENCH: ReadonlySet<string> = new Set<Act["kind"]>(["pulled", "checked", "set"]);

/** What is recorded when an act is pressed. */
export function happened(act: Act, sheet: Schemas["RunSheet"], prompt: Prompt, label: string | null): Happened {
  return {
    kind: act.kind,
    pull: act.unplanned ? null : pullFor(prompt, label),
    fastener: act.unplanned && !act.of_fastener ? null : label,
    how: act.how ?? null,
    moved: act.moved ?? null,
    option: act.option ?? null,
    adjusted: act.adjusted ?? null,
    setting: act.setting ?? null,
    counts: act.counts ?? null,
    text: act.text ?? null,
    affirmed: act.affirmed.length > 0 ? act.affirmed : null,
    tools: WITH_A_WRENCH.has(act.kind) && prompt.tooling !== null ? toolsOf(sheet, prompt) : null,
  };
}
