import type { Offered } from "./tooling";

/** When no wrench does all of it: which for what, taken with one tap; and what nothing here can do. */
export function Shares({ offered, onTake }: { offered: Offered; onTake: () => void }) {
  if (offered.shares.length === 0 && offered.left.length === 0) return null;
  return (
    <section aria-label="shared out" className="border-primary flex flex-col gap-2 border-l-8 pl-4">
      {offered.shares.map((share) => (
        <p key={`${share.wrench}${share.unit}`} className="text-lg">
          <b>{share.name}</b>: {share.words}
        </p>
      ))}
      {offered.left.length > 0 && (
        <p className="text-lg font-bold">Nothing in the crib does {offered.left.join("; ")}.</p>
      )}
      {offered.shares.length > 0 && offered.left.length === 0 && (
        <button type="button" className="btn btn-primary self-start" onClick={onTake}>
          Take these {offered.shares.length} wrenches
        </button>
      )}
    </section>
  );
}
