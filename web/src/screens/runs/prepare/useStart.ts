import { useState } from "react";
import { useNavigate } from "react-router";
import { address } from "../../../api/addresses";
import { Problem, type Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { outbox } from "../../../api/outbox";
import { courier } from "../../../core/courier";
import { keep } from "../../../core/kept";
import { reach } from "../../../core/reach";
import { BEGUN } from "../../../core/readNow";
import { tabletCore } from "../../../core/tabletCore";
import { atDevice, newId } from "../../../parts/ids";
import { useMe } from "../../../parts/useMe";

type Start = Omit<Schemas["Start"], "id" | "at_device" | "affirmed" | "position"> & {
  positions: readonly Schemas["Position"][];
};

/** What is said with the press: what was asked and is affirmed, and the proof. */
type Said = { affirmed: string[]; proof: string };

/**
 * Starts the run, or a run at each of several places, which are one job: by the server; where it is away, by the tablet itself.
 * What was asked is sent again with the answer.
 */
export function useStart({ positions, ...start }: Start) {
  const navigate = useNavigate();
  const me = useMe();
  const [refusal, setRefusal] = useState<unknown>(null);
  const command = useCommand({
    body: (pressed, { affirmed, proof }: Said) => ({
      starts: positions.map((position, place) => ({
        ...start,
        ...pressed,
        position,
        affirmed,
        proof,
        id: place === 0 ? pressed.id : newId(),
      })),
    }),
    to: address("/api/jobs/runs"),
    changes: [["dashboard"], ["machine"], ["job"]],
    done: (started) => goTo(started),
  });
  const goTo = (runs: readonly string[]) =>
    navigate(runs.length === 1 ? `/runs/${runs[0]}` : `/machines/${start.machine}`, { replace: true });
  const here = async (at_device: string, ids: readonly string[], { affirmed, proof }: Said) => {
    try {
      const all: Schemas["Begun"][] = [];
      for (const [place, position] of positions.entries()) {
        const asked = { ...start, at_device, id: ids[place] ?? newId(), position, affirmed, proof };
        all.push(await tabletCore.start(me, newId(), asked));
      }
      // None is kept before all of them may start.
      for (const begun of all) {
        const run = begun.start.id;
        const { sheet } = await tabletCore.resume(begun, me.device);
        const common = {
          method: "POST" as const,
          scope: `run/${run}`,
          local: true,
          what: `${sheet.machine.fleet_number} ${sheet.position_words}: started, ${sheet.title}`,
        };
        await outbox.put({ ...common, id: begun.id, address: BEGUN, body: begun, at: at_device });
        await keep(`sheet/${run}`, sheet);
        tabletCore.takeOver(run);
      }
      command.drop();
      courier.wake();
      goTo(all.map((begun) => begun.start.id));
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      setRefusal(error);
    }
  };
  const press = (affirmed: string[], proof = start.proof) => {
    setRefusal(null);
    if (!reach.away || !tabletCore.canStart) return command.press({ affirmed, proof });
    // The same runs, should the server have heard of them before it went away.
    const told = command.kept?.body as Schemas["Starts"] | undefined;
    return here(command.kept?.at ?? atDevice(), told?.starts.map((each) => each.id) ?? [], { affirmed, proof });
  };
  return { press, isPending: command.isPending, error: refusal ?? command.error };
}
