import { Link } from "react-router";
import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { touched } from "../../../api/queries";
import { ReasonForm } from "../../../parts/ReasonForm";
import { Trouble } from "../../../parts/Trouble";
import { useMe } from "../../../parts/useMe";

/** The ways out of “do not move”: tighten again, or a lead releases it with a reason. */
export function Release({ card }: { card: Schemas["Card"] }) {
  const me = useMe();
  const { sheet, now } = card;
  const params = { path: { run_id: sheet.run } };
  const release = useCommand({
    body: (pressed, text: string) => ({ ...pressed, outcome: "released" as const, text, seq: now.seq }),
    to: address("/api/runs/{run_id}/finish", params),
    changes: touched.run(sheet.run),
  });
  return (
    <section aria-label="resolve" className="border-error rounded-box flex flex-col gap-3 border-2 p-4">
      <p className="text-lg">
        It stays so until a lead lifts it with a reason. Tighten it again first, if that is what it needs.
      </p>
      <a className="btn" href={`/api/runs/${sheet.run}/tag.pdf`} target="_blank" rel="noreferrer">
        Tag for the cab (PDF)
      </a>
      <Link className="btn btn-primary" to={`/specs/${sheet.spec}/prepare?machine=${sheet.machine.id}`}>
        Tighten it again
      </Link>
      {me.rights.includes("decide") && (
        <ReasonForm label="reason for the release" action="Lift it, as lead" onGive={release.press} />
      )}
      <Trouble error={release.error} />
    </section>
  );
}
