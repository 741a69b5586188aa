import { useEffect, useState } from "react";

export type Cells = Record<string, string>;
export type Draft = { head: Cells; steps: Cells[] };

/** Rows as they are sent: what is said of the spec as a whole stands in the first. */
export function rowsOf(draft: Draft): Cells[] {
  const [first = {}, ...rest] = draft.steps;
  return [{ ...draft.head, ...first }, ...rest];
}

/** Rows as they are written: the columns of a step apart from those of the spec as a whole. */
export function draftOf(rows: readonly Cells[], ofAStep: readonly string[]): Draft {
  const head = Object.fromEntries(Object.entries(rows[0] ?? {}).filter(([name]) => !ofAStep.includes(name)));
  const steps = rows.map((row) => Object.fromEntries(Object.entries(row).filter(([name]) => ofAStep.includes(name))));
  return { head, steps };
}

const key = (id: string) => `tight.draft.${id}`;

function kept(id: string): Draft | null {
  try {
    return JSON.parse(localStorage.getItem(key(id)) ?? "null");
  } catch {
    return null;
  }
}

/** What is being written. It stays on this tablet until it is on file, whatever happens to the page. */
export function useDraft(id: string, start: Draft | undefined) {
  const [draft, setDraft] = useState<Draft | null>(() => kept(id));
  const now = draft ?? start ?? null;
  useEffect(() => {
    if (draft) localStorage.setItem(key(id), JSON.stringify(draft));
  }, [draft, id]);
  const forget = () => {
    localStorage.removeItem(key(id));
    setDraft(null);
  };
  return { draft: now, change: setDraft, forget, changed: draft !== null };
}
