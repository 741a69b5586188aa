import { useQuery } from "@tanstack/react-query";
import { ShieldAlert, ShieldCheck } from "lucide-react";
import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { proofQuery } from "../../api/queries";
import { moment } from "../../parts/format";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";

/** The last checkpoint and the last verification; and the page that checks a card by itself. */
export function Proof() {
  const { data: proof, error } = useQuery(proofQuery);
  const me = useMe();
  const make = useCommand({
    body: (pressed) => ({ id: pressed.id }),
    to: address("/api/checkpoints", {}),
    changes: [["proof"]],
  });
  if (!proof) return <Trouble error={error} />;
  const broken = proof.finding_words !== "";
  return (
    <section
      aria-label="proof"
      className={`flex flex-col gap-2 border-l-8 pl-3 ${broken ? "border-error" : "border-success"}`}
    >
      <h2 className="flex items-center gap-2 text-lg font-bold">
        {broken ? <ShieldAlert aria-hidden="true" /> : <ShieldCheck aria-hidden="true" />}
        {broken ? "The ledger does not fit" : "Proof"}
      </h2>
      {broken && <p className="font-bold break-words">{proof.finding_words}</p>}
      <p>
        {proof.verified_at
          ? `Verified ${moment(proof.verified_at)}${proof.verified_whole ? ", every entry" : ", what came since the last checkpoint"}.`
          : "Not verified yet."}
      </p>
      {proof.checkpoint_at && (
        <p>
          Last checkpoint {moment(proof.checkpoint_at)}, over {proof.size} lines of the log:
          <b className="block font-bold tracking-wide">{proof.checkpoint_code}</b>
        </p>
      )}
      {me.rights.includes("hold") && (
        <button type="button" className="btn" disabled={make.isPending} onClick={() => make.press(undefined)}>
          Make a checkpoint now
        </button>
      )}
      <a className="btn" href="/verify/index.html" download="check-a-job-card.html">
        The page that checks a card
      </a>
      <Trouble error={make.error} />
      {proof.key && <p className="text-base-content/80 text-sm break-all">Public key: {proof.key}</p>}
    </section>
  );
}
