import { useEffect, useState } from "react";

export type Cells = Record<string, string>;
export type Draft = { head: Cells; steps: Cells[] };

const STEP = [
  "procedure",
  "step",
  "inside",
  "kind",
  "of",
  "order",
  "figure",
  "watch",
  "amount",
  "what",
  "say",
  "meanwhile",
  "more",
];

/** Rows as they are sent: what is said of the spec as a whole stands in the first. */
export function rowsOf(draft: Draft): Cells[] {
  const [first = {}, ...rest] = draft.steps;
  return [{ ...draft.head, ...first }, ...rest];
}

export function draftOf(rows: readonly Cells[]): Draft {
  const head = Object.fromEntries(Object.entries(rows[0] ?? {}).filter(([name]) => !STEP.includes(name)));
  const steps = rows.map((row) => Object.fromEntries(Object.entries(row).filter(([name]) => STEP.includes(name))));
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

/** A value that has not changed for a moment. */
export function useSettled<T>(value: T, after_ms = 250): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), after_ms);
    return () => clearTimeout(timer);
  }, [value, after_ms]);
  return settled;
}
