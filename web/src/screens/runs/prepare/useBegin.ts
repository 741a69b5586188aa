import { useState } from "react";
import { Problem, type Schemas } from "../../../api/client";
import { lately } from "./lately";
import { taken } from "./tooling";
import type { Preparing } from "./usePreparing";
import { useRetool } from "./useRetool";
import { useStart } from "./useStart";

/** What still has to be said before it can begin; null if nothing. */
function missingIn({ file, offered, positions, rows, row, proof, retool, choice }: Preparing): string | null {
  const { proof: asked } = file.spec;
  const where = retool === null;
  return (
    (where && positions.length === 0 && "Where on the machine?") ||
    (offered.asked.length > 0 && rows.some((each) => !each.wrench) && "Which wrench?") ||
    (choice?.refused && !row.override && "This wrench cannot do it.") ||
    (offered.too_weak && "The stand is too weak.") ||
    (where && !proof && asked.ask) ||
    null
  );
}

/** Begins the run, or goes on with other tools. */
export function useBegin(preparing: Preparing) {
  const { file, machine, procedure, positions, readings, rows, supports, load, proof, choice, retool: run } = preparing;
  const start = useStart({
    spec: file.spec.id,
    revision: file.spec.revision,
    procedure,
    machine: machine.machine.id,
    positions,
    meters: Object.entries(readings)
      .filter(([, reading]) => reading.figure !== "")
      .map(([kind, { figure, basis }]) => ({ kind: kind as Schemas["Meter"]["kind"], figure: Number(figure), basis })),
    tooling: taken(rows),
    supports,
    axle_load_kg: Number(load) || null,
    proof: proof ?? "",
  });
  const missing = missingIn(preparing);
  const asked = file.spec.proof;
  const [affirmed, setAffirmed] = useState<readonly string[]>([]);
  const retool = useRetool(run, taken(rows));
  return {
    missing,
    asks: start.error instanceof Problem && start.error.ask !== null ? start.error : null,
    error: start.error ?? retool.error,
    isPending: start.isPending || retool.isPending,
    /** Whether the proof is all that is missing of work whose place and wrench were known before: its answer begins. */
    answerBegins: preparing.known && missing === asked.ask,
    begin: (now: readonly string[] = [], said = proof ?? "") => {
      if (run !== null) return retool.press(undefined);
      lately.keep(machine.machine.id, { supports, load, readings, wrench: choice?.wrench.name ?? "" });
      const all = [...new Set([...affirmed, ...now])];
      setAffirmed(all); // one question may follow another
      return start.press(all, said);
    },
  };
}
