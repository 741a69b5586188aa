import type { Schemas } from "../../../api/client";

/** The wrench that is taken for what is asked now; the first of the run while nothing is pulled. */
export function inHand(sheet: Schemas["RunSheet"], prompt: Schemas["Prompt"]): Schemas["InHand"] | null {
  return sheet.tools[prompt.tooling ?? 0] ?? null;
}

/** What a pull was made with, for its entry. */
export function toolsOf(sheet: Schemas["RunSheet"], prompt: Schemas["Prompt"]): string[] | null {
  const tool = inHand(sheet, prompt);
  return tool ? [tool.wrench.id] : null;
}
