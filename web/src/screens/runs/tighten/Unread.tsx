import { useNavigate } from "react-router";
import { address } from "../../../api/addresses";
import { useCommand } from "../../../api/command";
import { touched } from "../../../api/queries";
import { ReasonForm } from "../../../parts/ReasonForm";
import { Trouble } from "../../../parts/Trouble";
import { useMe } from "../../../parts/useMe";

/** A run that nobody can read holds its place until a lead ends it as one that must not move. */
export function Unread({ run }: { run: string }) {
  const me = useMe();
  const navigate = useNavigate();
  const end = useCommand({
    body: (pressed, text: string) => ({ ...pressed, outcome: "do not move" as const, text, seq: 1 }),
    to: address("/api/runs/{run_id}/finish", { path: { run_id: run } }),
    changes: touched.run(run),
    done: () => navigate("/"),
  });
  return (
    <section aria-label="free its place" className="border-error rounded-box flex flex-col gap-3 border-2 p-4">
      <p className="text-lg">
        What was done here is not known: tighten this joint again from the start. Its place is free once a lead has
        ended this run; nothing of its record is changed.
      </p>
      {me.rights.includes("decide") && (
        <ReasonForm label="what was done about it" action="End it as “do not move”" onGive={end.press} />
      )}
      <Trouble error={end.error} />
    </section>
  );
}
