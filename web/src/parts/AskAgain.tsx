import type { Problem } from "../api/client";

type Props = { asked: Problem; yes: string; onYes: () => void };

/** What the server asks before it puts something on file, and the key that says that it is so. */
export function AskAgain({ asked, yes, onYes }: Props) {
  return (
    <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4 text-lg">
      <p>
        <b>{asked.fault}</b> {asked.remedy}
      </p>
      <button type="button" className="btn" onClick={onYes}>
        {yes}
      </button>
    </div>
  );
}
