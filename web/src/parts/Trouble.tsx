import { Problem } from "../api/client";

/** A refusal in place: what is wrong, what would be right. */
export function Trouble({ error }: { error: unknown }) {
  if (!error) return null;
  const problem = error instanceof Problem ? error : null;
  return (
    <div role="alert" className="bg-error text-error-content rounded-box p-4 text-lg">
      <p className="font-bold">{problem?.fault ?? "Something went wrong on this tablet."}</p>
      <p>{problem?.remedy ?? "Reload the page; nothing that was recorded is lost."}</p>
      {problem && problem.status >= 500 && problem.request && (
        <p className="text-sm">
          Number to read out on the phone: <b>{problem.request.slice(-12).replace(/(.{4})/g, "$1 ")}</b>
        </p>
      )}
    </div>
  );
}
