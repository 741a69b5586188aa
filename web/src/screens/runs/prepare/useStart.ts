import { useNavigate } from "react-router";
import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";

type Start = Omit<Schemas["Start"], "id" | "at_device" | "affirmed">;

/** Starts the run. What was asked is sent again with the answer. */
export function useStart(start: Start) {
  const navigate = useNavigate();
  return useCommand({
    body: (pressed, affirmed: string[]) => ({ ...start, ...pressed, affirmed }),
    to: address("/api/runs"),
    changes: [["dashboard"], ["machine"]],
    done: (started) => navigate(`/runs/${started.id}`, { replace: true }),
  });
}
