import { useState } from "react";
import { useNavigate } from "react-router";
import { address } from "../../../api/addresses";
import { Problem, type Schemas } from "../../../api/client";
import { type Pressed, useCommand } from "../../../api/command";
import { outbox } from "../../../api/outbox";
import { courier } from "../../../core/courier";
import { keep } from "../../../core/kept";
import { reach } from "../../../core/reach";
import { BEGUN } from "../../../core/readNow";
import { tabletCore } from "../../../core/tabletCore";
import { atDevice, newId } from "../../../parts/ids";
import { useMe } from "../../../parts/useMe";

type Start = Omit<Schemas["Start"], "id" | "at_device" | "affirmed">;

/** Starts the run: by the server; where it is away, by the tablet itself. What was asked is sent again with the answer. */
export function useStart(start: Start) {
  const navigate = useNavigate();
  const me = useMe();
  const [refusal, setRefusal] = useState<unknown>(null);
  const command = useCommand({
    body: (pressed, affirmed: string[]) => ({ ...start, ...pressed, affirmed }),
    to: address("/api/runs"),
    changes: [["dashboard"], ["machine"]],
    done: (started) => navigate(`/runs/${started.id}`, { replace: true }),
  });
  const here = async (pressed: Pressed, affirmed: string[]) => {
    try {
      const run = pressed.id;
      const begun = await tabletCore.start(me, newId(), { ...start, ...pressed, affirmed });
      const { sheet } = await tabletCore.resume(begun, me.device);
      const common = {
        method: "POST" as const,
        scope: `run/${run}`,
        local: true,
        what: `${sheet.machine.fleet_number} ${sheet.position_words}: started, ${sheet.title}`,
      };
      await outbox.put({ ...common, id: begun.id, address: BEGUN, body: begun, at: pressed.at_device });
      await keep(`sheet/${run}`, sheet);
      command.drop();
      courier.wake();
      navigate(`/runs/${run}`, { replace: true });
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      setRefusal(error);
    }
  };
  const press = (affirmed: string[]) => {
    setRefusal(null);
    if (!reach.away || !tabletCore.canStart) return command.press(affirmed);
    // The same run, should the server have heard of it before it went away.
    const pressed = command.kept && { id: command.kept.id, at_device: command.kept.at };
    return here(pressed ?? { id: newId(), at_device: atDevice() }, affirmed);
  };
  return { press, isPending: command.isPending, error: refusal ?? command.error };
}
