import type { Schemas } from "../api/client";

/** The newest things that keep a run from being good, each with what to do about it. */
export function Flagged({ verdicts }: { verdicts: Schemas["Now"]["verdicts"] }) {
  const flagged = verdicts.filter((verdict) => !verdict.answered && verdict.keeps_from_good);
  if (flagged.length === 0) return null;
  return (
    <ul className="border-error mt-2 border-l-8 pl-3">
      {flagged.slice(-2).map((verdict) => (
        <li key={`${verdict.code}${verdict.words}`}>
          <b>{verdict.words}.</b> {verdict.remedy}
        </li>
      ))}
    </ul>
  );
}
