import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { nowQuery, touched } from "../../../api/queries";

/** Goes on with a run that has begun, with other tools. */
export function useRetool(run: string | null, tooling: Schemas["Start"]["tooling"]) {
  const navigate = useNavigate();
  const { data: now } = useQuery({ ...nowQuery(run ?? ""), enabled: run !== null });
  return useCommand({
    body: (pressed) => ({ ...pressed, tooling, text: "", seq: now?.seq ?? 0 }),
    to: address("/api/runs/{run_id}/retool", { path: { run_id: run ?? "" } }),
    changes: touched.run(run ?? ""),
    done: () => navigate(`/runs/${run}`, { replace: true }),
  });
}
