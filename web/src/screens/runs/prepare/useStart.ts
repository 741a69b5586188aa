import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { nowQuery, touched } from "../../../api/queries";

type Start = Omit<Schemas["Start"], "id" | "at_device" | "affirmed">;

/** Goes on with a run that has begun, with other tools. */
export function useRetool(run: string | null, tooling: Start["tooling"]) {
  const navigate = useNavigate();
  const { data: now } = useQuery({ ...nowQuery(run ?? ""), enabled: run !== null });
  return useCommand({
    body: (pressed) => ({ ...pressed, tooling, text: "", seq: now?.seq ?? 0 }),
    to: address("/api/runs/{run_id}/retool", { path: { run_id: run ?? "" } }),
    changes: touched.run(run ?? ""),
    done: () => navigate(`/runs/${run}`, { replace: true }),
  });
}

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
